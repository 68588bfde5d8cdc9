/** Fields of the Set up form: typed in the reader's units, kept in the core's. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState, type ReactNode } from "react";
import { describe, expect, it } from "vitest";

import { SettingsProvider, useSettings } from "../src/app/settings";
import { NumberField, UnitField } from "../src/components/NumberField";
import { ChoiceOf, Field } from "../src/features/setup/Fields";

const ME = {
  user: "analyst",
  units: [
    {
      unit: "degC",
      si: { symbol: "°C", factor: 1, offset: 0 },
      us: { symbol: "°F", factor: 1.8, offset: 32 },
    },
    {
      unit: "watt",
      si: { symbol: "kW", factor: 0.001, offset: 0 },
      us: { symbol: "kBtu/h", factor: 0.0034121416, offset: 0 },
    },
  ],
};

const textOf = (field: HTMLElement) => (field as HTMLInputElement).value;

function Switch() {
  const { setUnits } = useSettings();
  return (
    <>
      <button onClick={() => setUnits("SI")}>SI</button>
      <button onClick={() => setUnits("US")}>US</button>
    </>
  );
}

function Form({ first, unit, per }: { first: number | null; unit: string; per?: number }) {
  const [value, setValue] = useState<number | null>(first);
  return (
    <>
      <UnitField label="Value" unit={unit} per={per} value={value} put={setValue} />
      <output>{value === null ? "unknown" : String(value)}</output>
    </>
  );
}

async function shown(form: ReactNode, units: "SI" | "US") {
  const client = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  client.setQueryData(["me"], ME);
  render(
    <QueryClientProvider client={client}>
      <SettingsProvider>
        <Switch />
        {form}
      </SettingsProvider>
    </QueryClientProvider>,
  );
  await userEvent.click(screen.getByRole("button", { name: units }));
}

describe("a field with a unit", () => {
  it("shows the reader's unit and keeps the core's", async () => {
    await shown(<Form first={8} unit="watt" per={1000} />, "US");
    const field = screen.getByLabelText("Value, kBtu/h");
    expect(textOf(field)).toBe("27.3");
    await userEvent.clear(field);
    expect(screen.getByRole("status").textContent).toBe("unknown");
    await userEvent.type(field, "34.121416");
    expect(Number(screen.getByRole("status").textContent)).toBeCloseTo(10, 6);
    expect(textOf(field)).toBe("34.121416"); // what is typed stays as it is typed
  });

  it("takes °F with its offset, and a decimal comma", async () => {
    await shown(<Form first={-6} unit="degC" />, "US");
    const field = screen.getByLabelText("Value, °F");
    expect(textOf(field)).toBe("21.2");
    await userEvent.clear(field);
    await userEvent.type(field, "-4,0");
    expect(screen.getByRole("status").textContent).toBe("-20");
  });

  it("keeps every digit where nothing is converted", async () => {
    await shown(<Form first={21.25} unit="degC" />, "SI");
    expect(textOf(screen.getByLabelText("Value, °C"))).toBe("21.25");
  });

  it("shows another system's number when the switch is turned", async () => {
    await shown(<Form first={20} unit="degC" />, "SI");
    await userEvent.click(screen.getByRole("button", { name: "US" }));
    expect(textOf(screen.getByLabelText("Value, °F"))).toBe("68");
  });
});

describe("other fields", () => {
  it("mark what is no number and leave the value alone", async () => {
    const put: (number | null)[] = [];
    render(<NumberField label="Heads" value={3} put={(value) => put.push(value)} />);
    const field = screen.getByLabelText("Heads");
    await userEvent.type(field, "x");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    expect(put).toEqual([]);
  });

  it("say what is wrong beside them, and offer not knowing", async () => {
    let chosen: string | null = "radiators";
    render(
      <table>
        <tbody>
          <Field
            label="Emitters"
            where="house.emitters"
            problems={[{ where: "house.emitters", what: "is none" }]}
          >
            <ChoiceOf
              label="Emitters"
              value={chosen}
              choices={[{ value: "radiators", words: "radiators" }]}
              put={(value) => (chosen = value)}
              none="not known"
            />
          </Field>
        </tbody>
      </table>,
    );
    expect(screen.getByText("is none").tagName).toBe("DIV");
    await userEvent.selectOptions(screen.getByLabelText("Emitters"), "");
    expect(chosen).toBeNull();
  });
});
