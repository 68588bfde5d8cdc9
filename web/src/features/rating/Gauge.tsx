/** A measured value with its U on a line, and the threshold across it; the fault's side is washed. */
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
    <div aria-hidden style={{ position: "relative", height: 20 }}>
      <i
        style={{
          position: "absolute",
          top: 2,
          bottom: 2,
          left: above ? `${at(threshold)}%` : 0,
          right: above ? 0 : `${100 - at(threshold)}%`,
          background: "var(--ember-wash)",
        }}
      />
      <i style={{ position: "absolute", left: 0, right: 0, top: 10, borderTop: "1px solid var(--line)" }} />
      <i
        style={{
          position: "absolute",
          left: `${at(threshold)}%`,
          top: 1,
          bottom: 1,
          borderLeft: "2px solid var(--soft)",
        }}
      />
      <i
        style={{
          position: "absolute",
          left: `${at(value - U)}%`,
          width: `${at(value + U) - at(value - U)}%`,
          top: 9,
          borderTop: "3px solid var(--ink)",
        }}
      />
      <i
        style={{
          position: "absolute",
          left: `calc(${at(value)}% - 4px)`,
          top: 6,
          width: 9,
          height: 9,
          borderRadius: "50%",
          background: "var(--ink)",
        }}
      />
    </div>
  );
}
