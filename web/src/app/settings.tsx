/** What a person chooses once and keeps: units, light or dark. Kept in this browser. Units are those
 * of the system that is looked at, where it has its own and nobody chose others for it here. */
import { useColorScheme } from "@mui/material/styles";
import { createContext, useCallback, useContext, useMemo, useState, type ReactNode } from "react";

import { shadeOf, type Mode, type Shade } from "./theme";

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
  const { mode: asked, systemMode, setMode } = useColorScheme();
  const mode: Mode = (asked === "system" ? systemMode : asked) ?? "light";
  const setUnits = useCallback(
    (value: Units) => {
      localStorage.setItem(scope?.units ? `units:${scope.id}` : "units", value);
      if (scope?.units) setScope({ ...scope });
      else putUnits(value);
    },
    [scope],
  );
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
