/** Rating: worse than promised, and why. */
import { useQueryString } from "../../app/query";
import Button from "@mui/material/Button";
import { Link } from "react-router";

import type { SystemShown } from "../../api/client";
import { useMe } from "../../api/hooks";
import { useKeys } from "../../app/keys";
import type { Period } from "../../app/period";
import { useSettings } from "../../app/settings";
import { shownIn, type Shown } from "../../components/numbers";
import { Room } from "../../components/Room";
import { Empty } from "../../components/Said";
import { Tabs } from "../../components/Tabs";
import { Findings } from "./Findings";
import { InHouse } from "./InHouse";
import { Limits } from "./Limits";
import { OverWeather } from "./OverWeather";
import { SameConditions } from "./SameConditions";
import { Scop } from "./Scop";
import { RatedSheet } from "./RatedSheet";
import { must } from "../../components/must";

const VIEWS = [
  ["findings", "Findings"],
  ["weather", "Over the weather"],
  ["same", "Same conditions"],
  ["table", "Rated table"],
  ["house", "In the house"],
  ["scop", "SCOP"],
  ["limits", "Thresholds"],
] as const;
type View = (typeof VIEWS)[number][0];

export default function Rating() {
  const [params] = useQueryString();
  const view = VIEWS.find(([key]) => key === params.get("view"))?.[0] ?? "findings";
  return (
    <Room needs={false}>{(system, period) => <Inside system={system} period={period} view={view} />}</Room>
  );
}

function Inside({ system, period, view }: { system: SystemShown; period: Period | null; view: View }) {
  const [, put] = useQueryString();
  const me = useMe();
  const { units } = useSettings();
  const pairs = me.data?.units ?? [];
  const temp: Shown = shownIn(pairs, "degC", units);
  const power: Shown = shownIn(pairs, "watt", units);
  const go = (to: View) => put({ view: to === "findings" ? null : to });
  const turn = (by: number) =>
    go(must(VIEWS[(VIEWS.findIndex(([key]) => key === view) + by + VIEWS.length) % VIEWS.length])[0]);
  useKeys({ v: () => turn(1), V: () => turn(-1) });
  return (
    <>
      <Tabs label="Views of Rating" views={VIEWS} view={view} go={go} />
      {!period && (view === "findings" || view === "weather" || view === "same") && (
        <Empty title="No readings yet">
          <p>
            Nothing has been logged, so nothing is compared. The{" "}
            <Button onClick={() => go("table")}>rated table</Button>, what it does{" "}
            <Button onClick={() => go("house")}>in the house</Button> and its{" "}
            <Button onClick={() => go("scop")}>SCOP</Button> need no log; or{" "}
            <Link to={`/systems/${system.id}/log`}>import one</Link>.
          </p>
        </Empty>
      )}
      {view === "findings" && period && <Findings system={system} go={() => go("limits")} />}
      {view === "weather" && period && <OverWeather system={system} stretch={period.stretch} temp={temp} />}
      {view === "same" && period && (
        <SameConditions system={system} stretch={period.stretch} temp={temp} power={power} />
      )}
      {view === "table" && <RatedSheet system={system} temp={temp} power={power} />}
      {view === "house" && <InHouse system={system} temp={temp} power={power} go={() => go("table")} />}
      {view === "scop" && (
        <Scop system={system} stretch={period?.stretch ?? null} temp={temp} power={power} />
      )}
      {view === "limits" && <Limits system={system} />}
    </>
  );
}
