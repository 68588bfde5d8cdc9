/** The frame: job rail and the screen beside it; keys that work everywhere. */
import Box from "@mui/material/Box";
import { useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { useLocation, useNavigate } from "react-router";

import { api, got } from "../api/client";
import { useFleet, useFollowWork } from "../api/hooks";
import { Choices } from "./Choices";
import { Finder } from "./Finder";
import { Help } from "./Help";
import { useKeys, type KeyMap } from "./keys";
import { FrameContext } from "./frame";
import { Low, Rail } from "./Rail";
import { useSettings } from "./settings";

const ROOMS: [string, string, string][] = [
  ["setup", "Set up", "u"],
  ["log", "Log", "l"],
  ["trust", "Trust", "h"],
  ["running", "Running", "r"],
  ["rating", "Rating", "t"],
  ["season", "Season", "s"],
  ["money", "Money", "m"],
  ["changes", "Changes", "c"],
];

/** The system of the address, else the one that was looked at last. */
function useCurrent(): number | null {
  const { pathname } = useLocation();
  const fleet = useFleet();
  const here = /^\/systems\/(\d+)\//.exec(pathname)?.[1];
  if (here) sessionStorage.setItem("system", here);
  const kept = here ?? sessionStorage.getItem("system");
  const rows = fleet.data?.rows;
  if (kept && (!rows || rows.some((row) => row.id === Number(kept)))) return Number(kept);
  return rows?.[0]?.id ?? null;
}

export function Shell({ children }: { children: ReactNode }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const { search, pathname } = useLocation();
  const { units, setUnits, mode, setMode } = useSettings();
  const [finding, setFinding] = useState(false);
  const [helping, setHelping] = useState(false);
  const [choosing, setChoosing] = useState(false);
  const current = useCurrent();
  useFollowWork();
  const fleet = useFleet();
  const row = fleet.data?.rows.find((one) => one.id === current)?.system;
  const inSystem = pathname.startsWith("/systems/");
  const to = (room: string) => `/systems/${current}/${room}${inSystem ? search : ""}`;

  const keys: KeyMap = {
    "/": () => setFinding(true),
    "?": () => setHelping(true),
    u: () => setUnits(units === "SI" ? "US" : "SI"),
    "g f": () => void go("/fleet"),
  };
  if (current !== null) for (const [room, , letter] of ROOMS) keys[`g ${letter}`] = () => void go(to(room));
  useKeys(keys);

  async function leave() {
    queries.setQueryData(["me"], await got(api.POST("/api/v1/sign-out")));
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "me" });
  }

  const wants: Record<string, boolean> = {
    trust: row?.metering === "doubtful" || row?.metering === "broken",
    rating: row?.verdict === "below rated" || row?.verdict === "too good",
  };
  return (
    <FrameContext value={{ find: () => setFinding(true), help: () => setHelping(true) }}>
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: {
            xs: "minmax(0, 1fr)",
            sm: "72px minmax(0, 1fr)",
            md: "112px minmax(0, 1fr)",
          },
          gridTemplateRows: { xs: "minmax(0, 1fr) auto", sm: "minmax(0, 1fr)" },
          height: "100%",
          "@media print": {
            display: "none",
            'body[data-print="screen"] &, &:has([data-paper])': { display: "block", height: "auto" },
          },
        }}
      >
        <Rail
          rooms={current === null ? [] : ROOMS.map(([room, name]) => [name, to(room), wants[room] ?? false])}
        >
          <Low onClick={() => setMode(mode === "light" ? "dark" : "light")}>
            {mode === "light" ? "Dark" : "Light"}
          </Low>
          <Low onClick={() => setChoosing(true)}>Settings</Low>
          <Low onClick={() => setHelping(true)}>Keys ?</Low>
          <Low onClick={() => void leave()}>Sign out</Low>
        </Rail>
        <Box
          sx={{
            display: "grid",
            gridTemplateRows: "auto minmax(0, 1fr)",
            minWidth: 0,
            minHeight: 0,
            height: "100%",
            "@media print": { height: "auto" },
          }}
        >
          {children}
        </Box>
      </Box>
      <Finder open={finding} onClose={() => setFinding(false)} />
      {choosing && <Choices close={() => setChoosing(false)} />}
      <Help open={helping} onClose={() => setHelping(false)} />
    </FrameContext>
  );
}
