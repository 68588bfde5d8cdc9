/** A form that keeps what was typed while the tab is open, so that looking elsewhere loses nothing. */
import { useEffect } from "react";
import { useForm, type DefaultValues, type FieldValues } from "react-hook-form";

/** What was typed under a name: of the fields that a form has, those that were kept. */
export function keptDraft<Typed extends FieldValues>(name: string, blank: Typed): Typed {
  try {
    const found = JSON.parse(sessionStorage.getItem(name) ?? "{}") as Partial<Typed>;
    const known = Object.entries(found).filter(([field]) => field in blank);
    return { ...blank, ...Object.fromEntries(known) };
  } catch {
    return blank; // it was not ours
  }
}

export function useDraft<Typed extends FieldValues>(name: string, blank: Typed) {
  const form = useForm<Typed>({ defaultValues: keptDraft(name, blank) as DefaultValues<Typed> });
  const { subscribe } = form;
  useEffect(
    () =>
      subscribe({
        formState: { values: true },
        callback: ({ values }) => sessionStorage.setItem(name, JSON.stringify(values)),
      }),
    [subscribe, name],
  );
  return form;
}
