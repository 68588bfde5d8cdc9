/** The numbers at the head of a screen, each with its name, in one quiet line. */
import type { ReactNode } from "react";

export interface Fact {
  name: string;
  value: ReactNode;
  /** What it stands on, or how it is spread. */
  note?: ReactNode;
  /** Whether it wants attention. */
  ember?: boolean;
}

export function Facts({ facts }: { facts: (Fact | null)[] }) {
  return (
    <dl style={{ display: "flex", flexWrap: "wrap", gap: "6px 26px", margin: 0 }}>
      {facts
        .filter((one): one is Fact => one !== null)
        .map((fact) => (
          <div key={fact.name}>
            <dt className="cap">{fact.name}</dt>
            <dd style={{ margin: 0 }} className={fact.ember ? "ember" : undefined}>
              <strong>{fact.value}</strong> {fact.note && <span className="soft">{fact.note}</span>}
            </dd>
          </div>
        ))}
    </dl>
  );
}
