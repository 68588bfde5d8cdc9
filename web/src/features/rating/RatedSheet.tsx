/** The rated table: an editable sheet that takes a paste, its misreadings, its surface, the library. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Link } from "react-router";

import type { RatedShown, SystemShown } from "../../api/client";
import { useRated } from "../../api/hooks";
import { Unsaved } from "../../app/Unsaved";
import { Trouble, Waiting } from "../../components/Said";
import * as look from "../../components/look";
import { number, type Shown } from "../../components/numbers";
import { Doubts } from "./Doubts";
import { Library } from "./Library";
import { RatedGrid } from "./RatedGrid";
import { RatedHead } from "./RatedHead";
import { Surface } from "./Surface";
import { useRatedSheet } from "./useRatedSheet";

export function RatedSheet({ system, temp, power }: { system: SystemShown; temp: Shown; power: Shown }) {
  const rated = useRated(system.id);
  const [saved, setSaved] = useState(false); // outlives the editor, which begins anew with what was saved
  if (rated.isError) return <Trouble error={rated.error} again={() => void rated.refetch()} />;
  if (!rated.data) return <Waiting what="the rated table" />;
  return (
    <Editor
      key={`${temp.symbol}${rated.dataUpdatedAt}`}
      system={system}
      rated={rated.data}
      temp={temp}
      power={power}
      saved={saved}
      onSaved={() => setSaved(true)}
    />
  );
}

interface EditorProps {
  system: SystemShown;
  rated: RatedShown;
  temp: Shown;
  power: Shown;
  saved: boolean;
  onSaved: () => void;
}

function Editor({ system, rated, temp, power, saved, onSaved }: EditorProps) {
  const work = useRatedSheet(system.id, rated, { temp, power }, onSaved);
  const { table } = rated;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 12 }}>
      <RatedHead work={work} />
      <Unsaved when={work.touched && !work.saving} what="The rated table was changed and is not saved" />
      {work.error && (
        <Alert severity="warning" role="alert">
          {work.error.message}
        </Alert>
      )}
      {work.sheet && <Doubts sheet={work.sheet} take={work.readAs} />}
      {saved && !work.touched && (
        <p role="status">
          Saved. The figures are being worked out anew; the table before is in Set up’s history.
        </p>
      )}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 20, alignItems: "start" }}>
        <RatedGrid work={work} temp={temp} power={power} />
        <Box sx={{ flex: "1 1 360px", minWidth: 0, display: "grid", gap: 14 }}>
          {table ? (
            <Surface table={table} temp={temp} power={power} stale={work.touched} />
          ) : (
            <Box component="p" sx={look.soft}>
              No rated table is given yet. Paste one, open a file, or take one from the library: the running
              is then compared with it at the same conditions.
            </Box>
          )}
          <Typography variant="caption" component="p">
            Low outdoor limit of the unit:{" "}
            {rated.low_outdoor_limit === null
              ? "not described"
              : `${number(temp.of(rated.low_outdoor_limit), 0)} ${temp.symbol}`}
            , in <Link to={`/systems/${system.id}/setup`}>Set up</Link>. Tolerance of the table ±{" "}
            {number(work.head.tolerance * 100, 0)} %.
          </Typography>
          <Library rated={rated} take={work.use} put={work.shelve} name={work.head.name} />
        </Box>
      </Box>
    </Box>
  );
}
