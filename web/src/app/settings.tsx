/** What a person chooses once and keeps: units, light or dark. Kept in this browser. Units are those
 * of the system that is looked at, where it has its own and nobody chose others for it here. */
import {
  createContext,
  useCallback,
  useContext,
  useLayoutEffect,
  useMemo,
  useState,
  type ReactNode,
} from "react";

import { shadeOf, variables, type Mode, type Shade } from "./theme";

export type Units = "SI" | "US";

interface Scope {
  id: number;
  units: string | null;
}

interface Settings {
  units: Units;
  setUnits: (units: Units) => void;
  lookAt: (system: Scope | null) => void;
  mode: Mode;
  setMode: (mode: Mode) => void;
}

const Context = createContext<Settings | null>(null);

function kept<T extends string>(key: string, otherwise: T, allowed: readonly T[]): T {
  const found = localStorage.getItem(key) as T | null;
  return found !== null && allowed.includes(found) ? found : otherwise;
}

export function SettingsProvider({ children }: { children: ReactNode }) {
  const prefers = window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  const [chosen, putUnits] = useState<Units>(() => kept("units", "SI", ["SI", "US"]));
  const [scope, setScope] = useState<Scope | null>(null);
  const own = scope?.units
    ? kept<Units>(`units:${scope.id}`, scope.units === "us" ? "US" : "SI", ["SI", "US"])
    : null;
  const units = own ?? chosen;
  const lookAt = useCallback(
    (next: Scope | null) =>
      setScope((now) => (now?.id === next?.id && now?.units === next?.units ? now : next)),
    [],
  );
  const [mode, putMode] = useState<Mode>(() => kept<Mode>("mode", prefers, ["light", "dark"]));
  useLayoutEffect(() => {
    const { dataset, style } = document.documentElement;
    dataset.theme = mode;
    style.colorScheme = mode;
    for (const [name, value] of Object.entries(variables(mode))) style.setProperty(name, value);
  }, [mode]);
  const setUnits = useCallback(
    (value: Units) => {
      localStorage.setItem(scope?.units ? `units:${scope.id}` : "units", value);
      if (scope?.units) setScope({ ...scope });
      else putUnits(value);
    },
    [scope],
  );
  const setMode = useCallback((value: Mode) => {
    localStorage.setItem("mode", value);
    putMode(value);
  }, []);
  const value = useMemo(
    () => ({ units, setUnits, lookAt, mode, setMode }),
    [units, setUnits, lookAt, mode, setMode],
  );
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useSettings(): Settings {
  const found = useContext(Context);
  if (!found) throw new Error("no settings");
  return found;
}

/** The colours as they are now, for what is drawn. */
export function useShade(): Shade {
  const { mode } = useSettings();
  return useMemo(() => shadeOf(mode), [mode]);
}
