/** Where a file is dropped. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useRef, useState, type DragEvent } from "react";

import { FileInput } from "../../components/FileInput";
import * as look from "../../components/look";

export function Drop({ sending, take }: { sending: string | null; take: (files: File[]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  function dropped(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    if (event.dataTransfer.files.length) take([...event.dataTransfer.files]);
  }
  return (
    <Box
      sx={{
        border: `1px dashed ${over ? "var(--ember)" : "var(--faint)"}`,
        background: over ? "var(--ember-wash)" : "var(--sheet)",
        padding: "18px 16px",
        borderRadius: 3,
      }}
      data-testid="drop"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={dropped}
    >
      <p>
        <strong>{sending ? `Sending and reading ${sending} …` : "Drop a log here, or several"}</strong>{" "}
        {!sending && (
          <>
            or <Button onClick={() => input.current?.click()}>choose files</Button>
          </>
        )}
      </p>
      <Box component="p" sx={look.soft}>
        CSV from any logger, plain or gzipped; XLSX, ODS, Parquet, Arrow or JSON lines. It is shown first;
        nothing is stored before you say so.
      </Box>
      <FileInput
        ref={input}
        multiple
        tabIndex={-1}
        aria-label="Log files"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length) take(files);
        }}
      />
    </Box>
  );
}
