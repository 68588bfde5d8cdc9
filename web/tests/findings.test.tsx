/** Findings, thresholds and news, over answers as the API gives them. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { describe, expect, it } from "vitest";

import type { Finding, FindingsShown, FindingStatus, SystemShown } from "../src/api/client";
import { NewsLine } from "../src/features/fleet/NewsLine";
import { Findings } from "../src/features/rating/Findings";
import { Limits } from "../src/features/rating/Limits";
import { must } from "../src/components/must";
import { answers, sent } from "./around";

const figure = (value: number, U = 0.05, unit = "") => ({ value, U, unit, decimals: 2, budget: [] });

function finding(name: string, more: Partial<Finding> = {}): Finding {
  return {
    code: name.replaceAll(" ", "_"),
    name,
    sentence: `${name} says so.`,
    weight: "action",
    period: { name: "year", start: 1_760_000_000, stop: 1_790_000_000 },
    evidence: [
      {
        words: "performance ratio",
        measured: figure(0.8),
        threshold: 0.9,
        above: false,
        start: 1_760_000_000,
        stop: 1_760_086_400,
        view: "running",
      },
    ],
    causes: [{ name: "air side", speaks_for: ["superheat normal"], speaks_against: ["approach small"] }],
    next_check: "Look at the coil.",
    who: "Anyone.",
    lost: figure(500, 50, "kWh"),
    money_lost: figure(150, 15, "EUR"),
    kwh_a_year: null,
    money_a_year: null,
    cost_basis: "500 kWh in 200 days",
    caution: "Isolate the mains.",
    clears: "PR at 0.9.",
    metering: false,
    ...more,
  } as unknown as Finding;
}

function status(name: string, state: string, more: Partial<FindingStatus> = {}): FindingStatus {
  const code = name.replaceAll(" ", "_");
  return {
    code,
    name,
    state,
    sentence: `${name} said so.`,
    reason: "",
    fixed_on: null,
    changed: 1_780_000_000,
    came_back: false,
    events: [{ code, state, words: "first seen", at: 1_780_000_000, by: null }],
    ...more,
  };
}

const notJudged = (
  code: FindingsShown["not_judged"][number]["code"],
  name: string,
): FindingsShown["not_judged"][number] => ({
  code,
  name,
  reason: { code: "metering_doubtful", sentence: "the metering is in doubt (clocks)" },
});

const found = (more: Partial<FindingsShown> = {}): FindingsShown => ({
  made: true,
  stale: false,
  findings: [],
  not_judged: [],
  statuses: [],
  siblings: [],
  ...more,
});
const system = { id: 7, name: "House", zone: "UTC" } as SystemShown;
function show(children: ReactNode, at = "/systems/7/rating") {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>{children}</MemoryRouter>
    </QueryClientProvider>,
  );
}

describe("findings", () => {
  it("are listed in their order, what is closed last", async () => {
    answers({
      "/findings": found({
        findings: [
          finding("below rated"),
          finding("high standby"),
          finding("room not held", { weight: "advisory" }),
        ],
        statuses: [status("below rated", "dismissed"), status("high standby", "new")],
      }),
    });
    show(<Findings system={system} go={() => undefined} />);
    const options = await screen.findAllByRole("option");
    expect(options.map((one) => one.textContent)).toEqual([
      "■High standbyaction150.00 EUR",
      "◇Room not heldadvisory150.00 EUR",
      "○Below rateddismissed150.00 EUR",
    ]);
    expect(screen.getByRole("article", { name: "High standby" })).toBeTruthy();
  });

  it("show evidence, causes with both sides, caution and what clears it", async () => {
    answers({
      "/findings": found({ findings: [finding("below rated")], statuses: [status("below rated", "new")] }),
    });
    show(<Findings system={system} go={() => undefined} />);
    const sheet = await screen.findByRole("article", { name: "Below rated" });
    for (const words of [
      "against 0.90",
      "+ superheat normal",
      "− approach small",
      "Isolate the mains.",
      "PR at 0.9.",
      "in these days",
    ])
      expect(sheet.textContent).toContain(words);
    const link = within(sheet).getByRole("link", { name: "show" });
    expect(link.getAttribute("href")).toContain("/systems/7/running?from=2025-10-09&to=2025-10-10&sel=");
  });

  it("lead to the table of Running that shows it", async () => {
    const one = finding("short cycling");
    must(one.evidence[0]).view = "running/runs";
    answers({ "/findings": found({ findings: [one] }) });
    show(<Findings system={system} go={() => undefined} />);
    const link = await screen.findByRole("link", { name: "show" });
    expect(link.getAttribute("href")).toContain("/running?view=runs&from=");
  });

  it("are dismissed with a reason, which is sent", async () => {
    answers({
      "/findings": found({ findings: [finding("below rated")], statuses: [status("below rated", "new")] }),
      "/findings/below_rated": found({
        findings: [finding("below rated")],
        statuses: [status("below rated", "dismissed", { reason: "known" })],
      }),
    });
    show(<Findings system={system} go={() => undefined} />);
    await userEvent.click(await screen.findByRole("button", { name: /Dismiss/ }));
    const ask = screen.getByRole("dialog");
    const button = within(ask).getByRole("button", { name: "Dismiss" });
    await userEvent.click(button);
    expect((await within(ask).findByRole("alert")).textContent).toBe("This is needed.");
    await userEvent.type(within(ask).getByLabelText("reason"), "known");
    await userEvent.click(button);
    expect(await screen.findByText("Dismissed: known")).toBeTruthy();
    expect(must(sent[0]).body).toEqual({ state: "dismissed", reason: "known", fixed_on: null });
    expect(screen.getByRole("button", { name: "Open again" })).toBeTruthy();
  });

  it("are fixed on a day", async () => {
    answers({
      "/findings": found({ findings: [finding("below rated")], statuses: [status("below rated", "new")] }),
      "/findings/below_rated": found(),
    });
    show(<Findings system={system} go={() => undefined} />);
    await userEvent.click(await screen.findByRole("button", { name: /Fixed/ }));
    await userEvent.type(screen.getByLabelText("on which day"), "2026-02-03");
    await userEvent.click(screen.getByRole("button", { name: "Mark as fixed" }));
    expect(must(sent[0]).body).toMatchObject({ state: "fixed", fixed_on: "2026-02-03" });
  });

  it("say what is not judged and why, once for each reason", async () => {
    answers({
      "/findings": found({
        not_judged: [notJudged("below_rated", "below rated"), notJudged("oversized", "oversized")],
      }),
    });
    show(<Findings system={system} go={() => undefined} />);
    const section = await screen.findByRole("region", { name: "Not judged" });
    expect(section.textContent).toContain("the metering is in doubt (clocks): below rated, oversized.");
    expect(screen.getByText("Nothing found")).toBeTruthy();
  });

  it("keep what was found before, with its history", async () => {
    answers({ "/findings": found({ statuses: [status("high standby", "gone")] }) });
    show(<Findings system={system} go={() => undefined} />);
    const before = await screen.findByRole("region", { name: "Found before" });
    expect(before.textContent).toContain("no longer found");
    expect(before.textContent).toContain("by the evidence");
  });

  it("say when they are of earlier readings", async () => {
    answers({ "/findings": found({ stale: true, findings: [finding("below rated")] }) });
    show(<Findings system={system} go={() => undefined} />);
    expect(await screen.findByText(/being worked out anew/)).toBeTruthy();
  });

  it("are not made yet", async () => {
    answers({ "/findings": found({ made: false }), "/figures": {} });
    show(<Findings system={system} go={() => undefined} />);
    await userEvent.click(await screen.findByRole("button", { name: "Work them out" }));
    expect(must(sent[0]).what).toBe("PUT /api/v1/systems/7/figures");
  });
});

describe("thresholds", () => {
  const limits = {
    limits: [
      {
        name: "below_rated",
        words: "ratio below which",
        unit: "",
        value: 0.9,
        default: 0.9,
        source: "common practice",
      },
      {
        name: "short_runs",
        words: "share of short runs",
        unit: "%",
        value: 0.3,
        default: 0.25,
        source: "common practice",
      },
    ],
  };

  it("are typed in percent where they are shares, and only changes are sent", async () => {
    answers({ "/thresholds": limits });
    show(<Limits system={system} />);
    const field = await screen.findByLabelText("share of short runs");
    expect((field as HTMLInputElement).value).toBe("30");
    await userEvent.clear(field);
    await userEvent.type(field, "40");
    await userEvent.click(screen.getByRole("button", { name: "Save 1" }));
    expect(must(sent[0]).body).toEqual({ values: { short_runs: 0.4 } });
  });

  it("that are no number cannot be saved, and are put back", async () => {
    answers({ "/thresholds": limits });
    show(<Limits system={system} />);
    const field = await screen.findByLabelText("ratio below which");
    await userEvent.clear(field);
    await userEvent.type(field, "x");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    expect((screen.getByRole("button", { name: /Save/ }) as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Undo" }));
    expect((field as HTMLInputElement).value).toBe("0.90");
    await userEvent.click(screen.getByRole("button", { name: "All defaults" }));
    expect(screen.getByRole("button", { name: "Save 1" })).toBeTruthy();
  });
});

describe("news", () => {
  const line = (k: number) => ({
    system: k,
    name: `House ${k}`,
    kind: "below rated",
    sentence: "s",
    words: k ? "first seen" : "came back: x",
    at: 0,
  });

  it("name a few, the rest on demand, and are marked as seen", async () => {
    answers({
      "/news": { since: 1_770_000_000, lines: [0, 1, 2, 3].map(line) },
      "/news/seen": { since: 1_780_000_000, lines: [] },
    });
    show(<NewsLine />);
    const section = await screen.findByRole("region");
    expect(section.textContent).toContain("4 findings are new");
    expect(section.textContent).toContain("(came back)");
    expect(within(section).getAllByRole("link")).toHaveLength(3);
    await userEvent.click(within(section).getByRole("button", { name: "1 more" }));
    expect(within(section).getAllByRole("link")).toHaveLength(4);
    await userEvent.click(within(section).getByRole("button", { name: "Seen" }));
    expect(await screen.findByText(/nothing new/)).toBeTruthy();
  });

  it("are explained to who has never looked", async () => {
    answers({ "/news": { since: null, lines: [line(0)] } });
    show(<NewsLine />);
    const section = await screen.findByRole("region");
    expect(section.textContent).toContain("What is new from now on is said here");
    expect(within(section).queryAllByRole("link")).toHaveLength(0);
  });

  it("are silent before the first finding", async () => {
    answers({ "/news": { since: null, lines: [] } });
    const { container } = show(<NewsLine />);
    await new Promise((done) => setTimeout(done, 20));
    expect(container.textContent).toBe("");
  });
});
