/** What a person chooses once and keeps: units, light or dark. Kept in this browser. */
import { createContext, useCallback, useContext, useEffect, useMemo, useState, type ReactNode } from "react";

import type { Mode } from "./theme";

export type Units = "SI" | "US";

interface Settings {
  units: Units;
  setUnits: (units: Units) => void;
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
  const [units, putUnits] = useState<Units>(() => kept("units", "SI", ["SI", "US"]));
  const [mode, putMode] = useState<Mode>(() => kept<Mode>("mode", prefers, ["light", "dark"]));
  document.documentElement.dataset.theme = mode;
  useEffect(() => {
    document.documentElement.dataset.theme = mode;
  }, [mode]);
  const setUnits = useCallback((value: Units) => {
    localStorage.setItem("units", value);
    putUnits(value);
  }, []);
  const setMode = useCallback((value: Mode) => {
    localStorage.setItem("mode", value);
    putMode(value);
  }, []);
  const value = useMemo(() => ({ units, setUnits, mode, setMode }), [units, setUnits, mode, setMode]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useSettings(): Settings {
  const found = useContext(Context);
  if (!found) throw new Error("no settings");
  return found;
}
