/** Forms: what is typed is checked by the API's own schema before it goes, and what the server refuses stands at its
 * field, which gets the focus. */
import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { visuallyHidden } from "@mui/utils";
import { zodResolver } from "@hookform/resolvers/zod";
import { useId, type ReactNode } from "react";
import {
  Controller,
  useForm,
  type Control,
  type ControllerProps,
  type DefaultValues,
  type FieldPath,
  type FieldValues,
  type UseFormReturn,
} from "react-hook-form";
import { z } from "zod";

import { Refused } from "../api/client";
import forms from "../api/forms.json";
import { Choice } from "./Choice";
import * as look from "./look";
import { number } from "./numbers";
import { NumberField } from "./NumberField";
import { TextInput } from "./TextInput";

type Named = keyof typeof forms;

/** What is wrong with a value, as a sentence that says what to do. */
function said(issue: z.core.$ZodRawIssue): string | undefined {
  if (issue.code === "too_big")
    return issue.origin === "string"
      ? `${String(issue.input).length} characters; write ${number(Number(issue.maximum), 0)} at most.`
      : `${number(Number(issue.maximum), 0)} at most.`;
  if (issue.code === "too_small") return `${number(Number(issue.minimum), 0)} at least.`;
  if (issue.input === null || issue.input === undefined || issue.input === "") return "This is needed.";
  if (issue.code === "invalid_type" || issue.code === "invalid_union") return "This is no number.";
  return undefined;
}

z.config({ customError: said });

/** A form over one of the API's schemas. */
export function useTyped<Typed extends FieldValues>(name: Named, defaultValues: DefaultValues<Typed>) {
  const schema = z.fromJSONSchema(forms[name] as Parameters<typeof z.fromJSONSchema>[0]);
  return useForm<Typed>({
    resolver: zodResolver(schema as z.ZodType<Typed, Typed>),
    defaultValues,
    reValidateMode: "onChange",
  });
}

/** A rule for a text that may not be empty where the API would take it. */
export const NEEDED = { validate: (text: unknown) => (String(text ?? "").trim() ? true : "This is needed.") };

/** Puts what the server refused to its field; what is of none stands under the form. */
export function refusedAt<Typed extends FieldValues>(form: UseFormReturn<Typed>, error: Error): void {
  const field = error instanceof Refused ? error.where : null;
  if (field !== null && field in form.getValues()) {
    // The sentence names the field for who has no form; at the field it need not.
    const message = error.message.replace(/^[\w ]{1,20}: /, "");
    form.setError(field as FieldPath<Typed>, { message }, { shouldFocus: true });
  } else form.setError("root", { message: error.message });
}

interface Line<Typed extends FieldValues> {
  control: Control<Typed>;
  name: FieldPath<Typed>;
  label: string;
  width?: number;
  grows?: boolean;
  /** In a table, whose head says what it is: the label is for who cannot see that. */
  bare?: boolean;
}

interface LabelledProps {
  label: string;
  wrong: string | undefined;
  about: string;
  grows?: boolean;
  width?: number | undefined;
  bare?: boolean;
  children: ReactNode;
}

function Labelled({ label, wrong, about, grows = false, width, bare = false, children }: LabelledProps) {
  if (bare)
    return (
      <Tooltip title={wrong}>
        <span>
          {children}
          {wrong && (
            <Box component="span" id={about} role="alert" sx={visuallyHidden}>
              {label}: {wrong}
            </Box>
          )}
        </span>
      </Tooltip>
    );
  return (
    <Box sx={{ ...(grows ? { flex: 1, minWidth: width ?? 120 } : {}), alignSelf: "flex-start" }}>
      <Typography variant="caption" component="label" sx={{ display: "block" }}>
        {label}
        <br />
        {children}
      </Typography>
      {wrong && (
        <Box
          id={about}
          role="alert"
          sx={{ ...look.ember, fontSize: 11, maxWidth: Math.max(120, width ?? 0) }}
        >
          {wrong}
        </Box>
      )}
    </Box>
  );
}

/** A line of text. */
export function Words<Typed extends FieldValues>({
  control,
  name,
  label,
  width,
  grows = false,
  hint,
  focused = false,
  type,
  autoComplete,
  rules,
}: Line<Typed> & {
  hint?: string;
  focused?: boolean;
  type?: "password" | "date" | "time" | "datetime-local";
  autoComplete?: string;
  rules?: ControllerProps<Typed>["rules"];
}) {
  const about = useId();
  return (
    <Controller
      control={control}
      name={name}
      rules={rules}
      render={({ field, fieldState: { error } }) => (
        <Labelled label={label} wrong={error?.message} about={about} grows={grows} width={width}>
          <TextInput
            sx={{ width: grows ? "100%" : width }}
            ref={field.ref}
            name={field.name}
            type={type}
            autoComplete={autoComplete}
            autoFocus={focused}
            value={(field.value as string | null) ?? ""}
            placeholder={hint}
            aria-invalid={error !== undefined}
            aria-describedby={error ? about : undefined}
            onChange={field.onChange}
            onBlur={field.onBlur}
          />
        </Labelled>
      )}
    />
  );
}

/** A number, empty where there is none. */
export function Figure<Typed extends FieldValues>({
  control,
  name,
  label,
  width = 70,
  bare = false,
}: Line<Typed>) {
  const about = useId();
  return (
    <Controller
      control={control}
      name={name}
      render={({ field, fieldState: { error } }) => (
        <Labelled label={label} wrong={error?.message} about={about} width={width} bare={bare}>
          <NumberField
            ref={field.ref}
            label={bare ? label : undefined}
            width={width}
            value={field.value as number | null}
            put={field.onChange}
            unclear={() => field.onChange(NaN)}
            wrong={error !== undefined}
            {...(error ? { about } : {})}
          />
        </Labelled>
      )}
    />
  );
}

/** One of some. */
export function OneOf<Typed extends FieldValues>({
  control,
  name,
  label,
  of,
  none,
  rules,
  chosen,
}: Line<Typed> & {
  of: readonly (readonly [string, string])[];
  none?: string;
  /** Told what was chosen. */
  chosen?: (value: string) => void;
  rules?: ControllerProps<Typed>["rules"];
}) {
  const about = useId();
  return (
    <Controller
      control={control}
      name={name}
      rules={rules}
      render={({ field, fieldState: { error } }) => (
        <Labelled label={label} wrong={error?.message} about={about}>
          <Choice
            value={(field.value as string | null) ?? ""}
            onChange={(event) => {
              field.onChange(event.target.value || (none === undefined ? "" : null));
              chosen?.(event.target.value);
            }}
          >
            {none !== undefined && <option value="">{none}</option>}
            {of.map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </Choice>
        </Labelled>
      )}
    />
  );
}

/** Yes or no. */
export function Tick<Typed extends FieldValues>({ control, name, label }: Line<Typed>) {
  return (
    <Controller
      control={control}
      name={name}
      render={({ field }) => (
        <Typography variant="caption" component="label" sx={{ marginTop: 18 }}>
          <Checkbox
            checked={field.value as boolean}
            onChange={(event) => field.onChange(event.target.checked)}
          />{" "}
          {label}
        </Typography>
      )}
    />
  );
}
