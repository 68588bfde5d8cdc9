/** What a screen says while there is nothing to show. */
import type { ReactNode } from "react";

export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="soft" style={{ padding: 14 }}>
      Fetching {what} …
    </p>
  );
}

export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  return (
    <div role="alert" className="notice" style={{ margin: 14, maxWidth: 640 }}>
      <p>{error.message}</p>
      {again && (
        <button className="key" style={{ marginTop: 6 }} onClick={again}>
          Try again
        </button>
      )}
    </div>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div style={{ padding: "32px 14px", maxWidth: 520, display: "grid", gap: 8 }}>
      <h1>{title}</h1>
      {children}
    </div>
  );
}
