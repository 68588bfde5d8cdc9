/** A line to write in: the library's input, with the attributes of the browser's. */
import { Boxed } from "./Boxed";
import type { SxProps, Theme } from "@mui/material/styles";
import type { ChangeEvent, ClipboardEvent, ComponentProps, FocusEvent, KeyboardEvent, Ref } from "react";

type Box = HTMLInputElement;
type Native = Omit<
  ComponentProps<"input">,
  "ref" | "size" | "color" | "onChange" | "onKeyDown" | "onBlur" | "onPaste" | "style" | "className"
>;

interface Props extends Native {
  ref?: Ref<Box>;
  multiline?: boolean;
  rows?: number;
  onChange?: (event: ChangeEvent<Box>) => void;
  onKeyDown?: (event: KeyboardEvent<Box>) => void;
  onBlur?: (event: FocusEvent<Box>) => void;
  onPaste?: (event: ClipboardEvent<Box>) => void;
  sx?: SxProps<Theme> | undefined;
}

export function TextInput({
  ref,
  multiline = false,
  rows,
  onChange,
  onKeyDown,
  onBlur,
  onPaste,
  sx,
  type = "text",
  value,
  disabled,
  autoFocus,
  ...more
}: Props) {
  return (
    <Boxed
      inputRef={ref}
      type={type}
      value={value}
      multiline={multiline}
      {...(rows ? { rows } : {})}
      disabled={disabled ?? false}
      autoFocus={autoFocus ?? false}
      error={more["aria-invalid"] === true}
      onChange={(event) => onChange?.(event as ChangeEvent<Box>)}
      onKeyDown={(event) => onKeyDown?.(event as KeyboardEvent<Box>)}
      onBlur={(event) => onBlur?.(event as FocusEvent<Box>)}
      onPaste={(event) => onPaste?.(event as ClipboardEvent<Box>)}
      slotProps={{ input: more }}
      sx={sx ?? {}}
    />
  );
}
