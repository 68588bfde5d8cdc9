/** The sum as text, to be copied. */
import { useState } from "react";
import Button from "@mui/material/Button";
import type { SpanFigures, SystemShown } from "../../api/client";
import { Copy, textOf } from "../Proof";
import { localMinute } from "../numbers";
import * as look from "../look";

export function SumText({ system, span }: { system: SystemShown; span: SpanFigures }) {
  const [open, setOpen] = useState(false);
  return (
    <section>
      <Button
        variant="text"
        sx={{ ...look.soft, padding: 0 }}
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {open ? "▾" : "▸"} The sum as text
      </Button>
      {open && (
        <Copy
          address={textOf({
            system: system.id,
            start: localMinute(span.start, system.zone),
            stop: localMinute(span.stop, system.zone),
          })}
        />
      )}
    </section>
  );
}
