/** A time zone out of those that the browser knows. */
import Autocomplete from "@mui/material/Autocomplete";
import TextField from "@mui/material/TextField";

const ZONES = Intl.supportedValuesOf("timeZone");

export const HERE = Intl.DateTimeFormat().resolvedOptions().timeZone;

export function Zone({ zone, put }: { zone: string; put: (zone: string) => void }) {
  const every = ZONES.includes(zone) ? ZONES : [zone, ...ZONES];
  return (
    <Autocomplete
      options={every}
      value={zone}
      freeSolo
      autoSelect
      disableClearable
      onChange={(_, next) => put(next)}
      sx={{ width: 230 }}
      renderInput={(params) => (
        <TextField
          {...params}
          slotProps={{
            ...params.slotProps,
            htmlInput: { ...params.slotProps.htmlInput, "aria-label": "Time zone" },
          }}
        />
      )}
    />
  );
}
