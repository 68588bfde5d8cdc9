/** The library of rated tables that several units share. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";

import type { RatedShown } from "../../api/client";
import * as look from "../../components/look";

export function Library({
  rated,
  take,
  put,
  name,
}: {
  rated: RatedShown;
  take: (id: number) => void;
  put: (name: string) => void;
  name: string;
}) {
  return (
    <section aria-label="Library">
      <Typography variant="h2">Library</Typography>
      {rated.library.length === 0 && (
        <Box component="p" sx={look.soft}>
          Empty. A table that several units share is kept here once; systems with the same table are each
          other’s reference.
        </Box>
      )}
      {rated.library.map((one) => (
        <Box component="p" sx={{ display: "flex", gap: 8, alignItems: "baseline" }} key={one.id}>
          <Box component="span" sx={{ flex: 1 }}>
            {one.name}{" "}
            <Typography variant="caption" component="span">
              {one.points} points
            </Typography>
          </Box>
          <Button onClick={() => take(one.id)}>Use</Button>
        </Box>
      ))}
      <Tooltip title={name.trim() ? "" : "Give the type of unit a name first"}>
        <span>
          <Button sx={{ marginTop: 4 }} disabled={!name.trim() || !rated.table} onClick={() => put(name)}>
            Put this table into the library
          </Button>
        </span>
      </Tooltip>
    </section>
  );
}
