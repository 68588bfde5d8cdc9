/** What a rated table is of, and what can be done with it. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useRef } from "react";

import { Choice } from "../../components/Choice";
import { FileInput } from "../../components/FileInput";
import { TextInput } from "../../components/TextInput";
import type { RatedWork } from "./useRatedSheet";

const KINDS = [
  ["water", "outdoor × flow (air-to-water)"],
  ["ground", "source × flow (ground source)"],
  ["air", "outdoor × indoor (air-to-air)"],
] as const;

const row = { display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" } as const;

export function RatedHead({ work }: { work: RatedWork }) {
  const { head } = work;
  const file = useRef<HTMLInputElement>(null);
  return (
    <Box sx={{ display: "grid", gap: 6 }}>
      <Box sx={row}>
        <Choice
          aria-label="Kind of table"
          value={head.kind}
          onChange={(event) => work.say({ kind: event.target.value })}
        >
          {KINDS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Choice>
        <Typography variant="caption" component="label">
          type{" "}
          <TextInput
            sx={{ width: 190 }}
            aria-label="Type of unit"
            value={head.name}
            placeholder="by type and size"
            maxLength={80}
            onChange={(event) => work.say({ name: event.target.value })}
          />
        </Typography>
        <Box component="span" sx={{ flex: 1 }} />
        <FileInput
          ref={file}
          accept=".csv,.txt,.xlsx,.ods"
          aria-label="File of a rated table"
          onChange={(event) => event.target.files?.[0] && work.open(event.target.files[0])}
        />
        <Button onClick={() => file.current?.click()}>Open a file …</Button>
        <Button disabled={!work.touched} onClick={work.discard}>
          Discard
        </Button>
        <Button variant="contained" disabled={!work.save} onClick={() => work.save?.()}>
          Save
        </Button>
      </Box>
      <Box sx={row}>
        {(["outdoor_unit", "indoor_unit"] as const).map((which) => (
          <Tooltip
            key={which}
            title="The pair that the table is of: another coil indoors gives another table"
          >
            <Typography variant="caption" component="label">
              {which === "outdoor_unit"
                ? "outdoor unit"
                : head.kind === "air"
                  ? "indoor coil"
                  : "indoor unit"}{" "}
              <TextInput
                sx={{ width: 150 }}
                aria-label={which === "outdoor_unit" ? "Outdoor unit" : "Indoor unit"}
                value={head[which]}
                maxLength={80}
                onChange={(event) => work.say({ [which]: event.target.value })}
              />
            </Typography>
          </Tooltip>
        ))}
        <label>
          <Checkbox
            checked={head.includes_defrost}
            onChange={(event) => work.say({ includes_defrost: event.target.checked })}
          />{" "}
          includes defrosts
        </label>
      </Box>
    </Box>
  );
}
