/** What was typed stays while the tab is open, and what is not ours is not taken for it. */
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";

import { keptDraft, useDraft } from "../src/components/useDraft";

const BLANK = { lower: "", off: false };

function Asked({ name }: { name: string }) {
  const form = useDraft(name, BLANK);
  return (
    <>
      <label>
        Lower
        <input {...form.register("lower")} />
      </label>
      <button onClick={() => form.reset(BLANK)}>Clear</button>
    </>
  );
}

const typed = () => screen.getByLabelText<HTMLInputElement>("Lower").value;

describe("a draft", () => {
  beforeEach(() => sessionStorage.clear());

  it("is there again after looking elsewhere, each by its name", async () => {
    const { unmount } = render(<Asked name="one" />);
    await userEvent.type(screen.getByLabelText("Lower"), "3");
    unmount();
    const again = render(<Asked name="one" />);
    expect(typed()).toBe("3");
    again.unmount();
    render(<Asked name="two" />);
    expect(typed()).toBe("");
  });

  it("is gone when it is cleared", async () => {
    const { unmount } = render(<Asked name="one" />);
    await userEvent.type(screen.getByLabelText("Lower"), "3");
    await userEvent.click(screen.getByRole("button"));
    unmount();
    render(<Asked name="one" />);
    expect(typed()).toBe("");
  });

  it("takes only fields that the form has", () => {
    sessionStorage.setItem("old", JSON.stringify({ lower: "4", gone: 1 }));
    expect(keptDraft("old", BLANK)).toEqual({ lower: "4", off: false });
    sessionStorage.setItem("old", "{no json");
    expect(keptDraft("old", BLANK)).toEqual(BLANK);
  });
});
