/** A correction written by hand, as the API takes it. */
import { describe, expect, it } from "vitest";

import { correctionOf } from "../src/features/trust/OwnCorrection";

describe("a correction by hand", () => {
  it("leaves out a stretch", () => {
    expect(
      correctionOf("exclude", {
        start: "2026-01-01T00:00",
        end: "2026-01-02T00:00",
        reason: " pump mode test ",
      }),
    ).toEqual({
      kind: "exclude",
      start: "2026-01-01T00:00",
      end: "2026-01-02T00:00",
      reason: "pump mode test",
    });
  });

  it("takes numbers with a comma and a typed minus", () => {
    expect(correctionOf("offset", { channel: "flow_temp", add: "\u22120,4", U: "0,1", reason: "x" })).toEqual(
      { kind: "offset", channel: "flow_temp", add: -0.4, U: 0.1, reason: "x" },
    );
  });

  it("says nothing of what was left empty", () => {
    expect(
      correctionOf("rule", { channel: "", below: "", from_time: "23:00", to_time: "05:00", reason: "x" }),
    ).toEqual({ kind: "rule", from_time: "23:00", to_time: "05:00", reason: "x" });
  });

  it("gives the channels of a swap and of a clock as a list", () => {
    expect(correctionOf("swap", { one: "flow_temp", other: "return_temp", reason: "x" }).channels).toEqual([
      "flow_temp",
      "return_temp",
    ]);
    expect(correctionOf("clock_shift", { one: "power:unit", seconds: "3600", reason: "x" })).toEqual({
      kind: "clock_shift",
      channels: ["power:unit"],
      seconds: 3600,
      reason: "x",
    });
  });
});
