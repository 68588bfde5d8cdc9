/** Readings, results and the whole installation out, as files that come in again. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import * as look from "../../components/look";
import type { SystemShown } from "../../api/client";
import type { Period } from "../../app/period";
import { must } from "../../components/must";

export function Out({ system, period }: { system: SystemShown; period: Period | null }) {
  const query = (form: string) =>
    new URLSearchParams({ start: must(period).from, stop: must(period).to, form });
  const keys = (address: (form: string) => string, forms: string[]) =>
    forms.map((form) => (
      <Box
        component="a"
        sx={{ textDecoration: "none", marginRight: 6 }}
        key={form}
        href={address(form)}
        download
      >
        {{ parquet: "Parquet", ember: "Archive" }[form] ?? form.toUpperCase()}
      </Box>
    ));
  return (
    <Box component="section" sx={{ display: "grid", gap: 16, maxWidth: 760 }}>
      {period && (
        <>
          <div>
            <Typography variant="h2">
              Readings of {period.from} to {period.to}
            </Typography>
            <Box component="p" sx={{ marginTop: 4 }}>
              {keys(
                (form) => `/api/v1/systems/${system.id}/readings?${query(form)}`,
                ["csv", "xlsx", "parquet"],
              )}
            </Box>
            <Box component="p" sx={look.soft}>
              UTC, in °C, W, m³/s and J; imported again they are the same.
            </Box>
          </div>
          <div>
            <Typography variant="h2">Results, day by day and month by month</Typography>
            <Box component="p" sx={{ marginTop: 4 }}>
              {keys(
                (form) => `/api/v1/systems/${system.id}/results?form=${form}`,
                ["csv", "xlsx", "parquet"],
              )}
            </Box>
            <Box component="p" sx={look.soft}>
              Of the whole record: electricity, heat and COP with U (k = 2), coverage, boundary level, kind of
              day.
            </Box>
          </div>
          <div>
            <Typography variant="h2">Everything worked out</Typography>
            <Box component="p" sx={{ marginTop: 4 }}>
              {keys(() => `/api/v1/systems/${system.id}/assessment.json`, ["json"])}
            </Box>
            <Box component="p" sx={look.soft}>
              The whole assessment with the description (docs/formats.md).
            </Box>
          </div>
        </>
      )}
      <div>
        <Typography variant="h2">The whole installation</Typography>
        <Box component="p" sx={{ marginTop: 4 }}>
          {keys(() => `/api/v1/systems/${system.id}/archive`, ["ember"])}
        </Box>
        <Box component="p" sx={look.soft}>
          Description and its history, readings of each import as Parquet, readings by hand, notes and bills:
          one zip file that comes in again equal. The Fleet takes it, and gives out all installations as one.
        </Box>
      </div>
    </Box>
  );
}
