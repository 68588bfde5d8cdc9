/** A measured value with its U on a line, and the threshold across it; the fault's side is washed. */
import Box from "@mui/material/Box";
export function Gauge({
  value,
  U,
  threshold,
  above,
}: {
  value: number;
  U: number;
  threshold: number;
  above: boolean;
}) {
  const reach = Math.max(Math.abs(value - threshold), U, Math.abs(threshold) * 0.1, 1e-9) * 1.25;
  const [low, high] = [
    Math.min(value - U, threshold) - reach * 0.35,
    Math.max(value + U, threshold) + reach * 0.35,
  ];
  const at = (x: number) => ((x - low) / (high - low)) * 100;
  return (
    <Box sx={{ position: "relative", height: 20 }} aria-hidden>
      <Box
        component="i"
        sx={{
          position: "absolute",
          top: 2,
          bottom: 2,
          left: above ? `${at(threshold)}%` : 0,
          right: above ? 0 : `${100 - at(threshold)}%`,
          background: "var(--ember-wash)",
        }}
      />
      <Box
        component="i"
        sx={{ position: "absolute", left: 0, right: 0, top: 10, borderTop: "1px solid var(--line)" }}
      />
      <Box
        component="i"
        sx={{
          position: "absolute",
          left: `${at(threshold)}%`,
          top: 1,
          bottom: 1,
          borderLeft: "2px solid var(--soft)",
        }}
      />
      <Box
        component="i"
        sx={{
          position: "absolute",
          left: `${at(value - U)}%`,
          width: `${at(value + U) - at(value - U)}%`,
          top: 9,
          borderTop: "3px solid var(--ink)",
        }}
      />
      <Box
        component="i"
        sx={{
          position: "absolute",
          left: `calc(${at(value)}% - 4px)`,
          top: 6,
          width: 9,
          height: 9,
          borderRadius: "50%",
          background: "var(--ink)",
        }}
      />
    </Box>
  );
}
