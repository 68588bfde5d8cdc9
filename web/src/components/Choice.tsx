/** One of several: the library's select over the browser's own list, which every keyboard knows. */
import Select from "@mui/material/Select";

import { Boxed } from "./Boxed";
import type { ChangeEvent, ComponentProps, ReactNode } from "react";
import type { SxProps, Theme } from "@mui/material/styles";

type Native = Pick<
  ComponentProps<"select">,
  "id" | "value" | "disabled" | "aria-label" | "aria-describedby" | "aria-invalid" | "name" | "required"
>;

interface Props extends Native {
  onChange: (event: ChangeEvent<HTMLSelectElement>) => void;
  children: ReactNode;
  sx?: SxProps<Theme> | undefined;
}

export function Choice({ onChange, children, value, sx, disabled, ...more }: Props) {
  return (
    <Select
      native
      value={value}
      disabled={disabled ?? false}
      error={more["aria-invalid"] === true}
      onChange={(event) => onChange(event as unknown as ChangeEvent<HTMLSelectElement>)}
      input={<Boxed className="choice" />}
      inputProps={more}
      sx={sx ?? {}}
    >
      {children}
    </Select>
  );
}
