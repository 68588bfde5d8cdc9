/** A screen of one system: head with ribbon, the screen, the Reckoning panel beside it. */
import { useEffect, type ReactNode } from "react";
import { Link, useParams } from "react-router";

import type { SystemShown } from "../api/client";
import { useSystem } from "../api/hooks";
import { usePeriod, type Period } from "../app/period";
import { useSettings } from "../app/settings";
import { Screen, Work } from "./Frame";
import { Head } from "./Head";
import { ProofProvider } from "./Proof";
import { ReckoningPanel } from "./ReckoningPanel";
import { Empty, Trouble, Waiting } from "./Said";

export function Room({
  byDay = false,
  panel = true,
  children,
  needs = true,
}: {
  byDay?: boolean;
  panel?: boolean;
  needs?: boolean;
  children: (system: SystemShown, period: Period | null) => ReactNode;
}) {
  const pk = Number(useParams().pk);
  const system = useSystem(pk);
  const { lookAt } = useSettings();
  const units = system.data?.units ?? null;
  useEffect(() => {
    lookAt({ id: pk, units });
    return () => lookAt(null);
  }, [lookAt, pk, units]);
  // Of readings days apart a single day says nothing.
  const period = usePeriod(system.data, byDay && system.data?.by_hand == null);
  if (system.isPending) return <Waiting what="the system" />;
  if (system.isError) return <Trouble error={system.error} again={() => void system.refetch()} />;
  const empty = needs && period === null;
  return (
    <ProofProvider>
      <Head system={system.data} period={period} />
      {empty ? (
        <Screen>
          <Empty title="No readings yet">
            <p>
              {system.data.name} is described, but nothing has been logged.{" "}
              <Link to={`/systems/${pk}/log`}>Import a log</Link>, and its sum is shown here.
            </p>
            {system.data.by_table && (
              <p>
                {system.data.by_table}{" "}
                <Link to={`/systems/${pk}/rating?view=house`}>What it does in this house</Link>
              </p>
            )}
          </Empty>
        </Screen>
      ) : (
        <Work panel={panel && period !== null}>
          <Screen>{children(system.data, period)}</Screen>
          {panel && period && (
            <ReckoningPanel
              system={system.data}
              stretch={period.sel ?? period.stretch}
              selected={period.sel !== null}
            />
          )}
        </Work>
      )}
    </ProofProvider>
  );
}
