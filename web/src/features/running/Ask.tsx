/** What is asked before a stretch is left out, set to another state, or a note is written. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useForm } from "react-hook-form";

import type { components } from "../../api/schema";
import { api, got, type SystemShown } from "../../api/client";
import { useAccept, type Stretch } from "../../api/hooks";
import { AskDialog } from "../../components/AskDialog";
import { NEEDED, OneOf, refusedAt, useTyped, Words } from "../../components/Form";

const words = (local: string) => local.replace("T", " ");

interface Asked {
  system: SystemShown;
  stretch: Stretch;
  close: () => void;
}

export function LeaveOut({ system, stretch, close }: Asked) {
  const accept = useAccept(system.id);
  const form = useForm({ defaultValues: { reason: "" } });
  return (
    <AskDialog
      title="Leave this stretch out of every sum"
      about={`${words(stretch.start)} to ${words(stretch.stop)}, local time. The readings stay; Trust lists it and can undo it.`}
      button="Leave out"
      form={form}
      send={({ reason }) =>
        accept.mutate([{ kind: "exclude", start: stretch.start, end: stretch.stop, reason: reason.trim() }], {
          onSuccess: close,
          onError: (error) => refusedAt(form, error),
        })
      }
      pending={accept.isPending}
      close={close}
    >
      <Words
        control={form.control}
        name="reason"
        label="why"
        hint="pump mode test"
        grows
        focused
        rules={NEEDED}
      />
    </AskDialog>
  );
}

const STATES = [
  "heating",
  "hot_water",
  "defrost",
  "cooling",
  "start_up",
  "standby",
  "off",
  "backup_only",
  "pump_overrun",
].map((one) => [one, one.replace("_", " ").replace("start up", "start-up")] as const);

/** Another state than was logged or inferred; every table and sum by state follows. */
export function SetState({ system, stretch, close }: Asked) {
  const accept = useAccept(system.id);
  const form = useForm({ defaultValues: { state: "standby", reason: "" } });
  return (
    <AskDialog
      title="Say what the unit did"
      about={`${words(stretch.start)} to ${words(stretch.stop)}, local time. The readings stay; runs, defrosts and sums by state follow. Trust lists it and can undo it.`}
      button="Set the state"
      form={form}
      send={({ state, reason }) =>
        accept.mutate(
          [{ kind: "state", start: stretch.start, end: stretch.stop, state, reason: reason.trim() }],
          { onSuccess: close, onError: (error) => refusedAt(form, error) },
        )
      }
      pending={accept.isPending}
      close={close}
    >
      <OneOf control={form.control} name="state" label="state" of={STATES} />
      <Words
        control={form.control}
        name="reason"
        label="why"
        hint="engineer on site, test mode"
        grows
        focused
        rules={NEEDED}
      />
    </AskDialog>
  );
}

export function Note({ system, at, close }: { system: SystemShown; at: string; close: () => void }) {
  const queries = useQueryClient();
  const form = useTyped("ObservationTyped", {
    id: null,
    kind: "note",
    time: words(at),
    note: "",
    photo: "",
    cost: null,
    done_by: "",
  });
  const keep = useMutation({
    mutationFn: (body: components["schemas"]["ObservationTyped"]) =>
      got(api.POST("/api/v1/systems/{pk}/observations", { params: { path: { pk: system.id } }, body })),
    onSuccess: (next) => {
      queries.setQueryData(["observations", system.id], next);
      void queries.invalidateQueries({ queryKey: ["history", system.id] });
      close();
    },
    onError: (error) => refusedAt(form, error),
  });
  return (
    <AskDialog
      title="Write a note"
      about={`At ${words(at)}, local time. It stands on the axis and in the Log.`}
      button="Write down"
      form={form}
      send={(typed) => keep.mutate(typed)}
      pending={keep.isPending}
      close={close}
    >
      <Words
        control={form.control}
        name="note"
        label="note"
        hint="ice left on the coil after the defrost"
        grows
        focused
      />
    </AskDialog>
  );
}
