/** What the address keeps, and what a dropped file is. */
import { act, cleanup, render, screen, waitFor, within } from "@testing-library/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import userEvent from "@testing-library/user-event";
import { Link, MemoryRouter } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";

import { api } from "../src/api/client";
import { useQueryString, type Put } from "../src/app/query";
import { Facts } from "../src/components/Facts";
import { must } from "../src/components/must";
import NewSystem from "../src/features/new/NewSystem";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

describe("the address", () => {
  it("keeps all that is put in one moment, wherever it is put, and loses what is empty", async () => {
    const puts: Put[] = [];
    function Part({ name }: { name: string }) {
      const [params, put] = useQueryString();
      puts.push(put);
      return <p data-testid={name}>{params.toString()}</p>;
    }
    render(
      <MemoryRouter initialEntries={["/fleet?finding=below_rated&show=action"]}>
        <Part name="one" />
        <Part name="other" />
      </MemoryRouter>,
    );
    const [first, second] = puts;
    act(() => {
      must(first)({ finding: "" });
      must(second)({ compare: "2" });
    });
    await waitFor(() => expect(screen.getByTestId("one").textContent).toBe("show=action&compare=2"));
    expect(screen.getByTestId("other").textContent).toBe("show=action&compare=2");
  });
});

describe("another screen", () => {
  it("does not take over what was put on the one before", async () => {
    let put: Put = () => undefined;
    function Part() {
      const [params, set] = useQueryString();
      put = set;
      return (
        <>
          <p data-testid="now">{params.toString()}</p>
          <Link to="/other">other</Link>
        </>
      );
    }
    render(
      <MemoryRouter initialEntries={["/fleet"]}>
        <Part />
      </MemoryRouter>,
    );
    act(() => put({ finding: "below_rated" }));
    await waitFor(() => expect(screen.getByTestId("now").textContent).toBe("finding=below_rated"));
    await userEvent.click(screen.getByRole("link", { name: "other" }));
    await waitFor(() => expect(screen.getByTestId("now").textContent).toBe(""));
    act(() => put({ view: "runs" }));
    await waitFor(() => expect(screen.getByTestId("now").textContent).toBe("view=runs"));
  });
});

describe("facts", () => {
  it("stand in columns of which none is left alone", () => {
    const { container } = render(
      <Facts facts={[..."abcdef"].map((name) => ({ name, value: name.toUpperCase() }))} />,
    );
    expect(within(container).getAllByRole("term")).toHaveLength(6);
  });
});

describe("a new system", () => {
  const asked: string[] = [];
  const answer = (value: unknown) =>
    new Response(JSON.stringify(value), { status: 200, headers: { "content-type": "application/json" } });

  function show() {
    asked.length = 0;
    const proposal = {
      found: [],
      columns: [],
      open: [],
      asked: [],
      cop: null,
      reason: null,
      description: "",
    };
    vi.spyOn(api, "GET").mockImplementation(((path: string) =>
      Promise.resolve({
        data: path.endsWith("/systems") ? [{ id: 3, name: "Boat house" }] : proposal,
        response: new Response(),
      })) as never);
    vi.spyOn(globalThis, "fetch").mockImplementation((to) => {
      const url = new URL(to instanceof Request ? to.url : String(to), "http://localhost");
      asked.push(url.pathname);
      const job = { id: 7, state: "done", doing: "", failed: "", problem: "" };
      return Promise.resolve(answer(job));
    });
    render(
      <QueryClientProvider client={new QueryClient()}>
        <MemoryRouter>
          <NewSystem />
        </MemoryRouter>
      </QueryClientProvider>,
    );
    return screen.getByLabelText("Log to begin with");
  }

  it("takes an archive for what it is", async () => {
    const input = show();
    await userEvent.upload(input, new File(["PK"], "all.zip"));
    await userEvent.click(await screen.findByRole("button", { name: "Bring in" }));
    expect(await screen.findByRole("link", { name: "Boat house" })).toBeTruthy();
    expect(asked).toContain("/api/v1/archive");
    expect(asked).not.toContain("/api/v1/proposal");
  });

  it("takes JSON lines for a log, and one object for a description", async () => {
    const input = show();
    await userEvent.upload(input, new File(['{"a": 1}\n{"a": 2}\n'], "log.json"));
    await waitFor(() => expect(asked).toContain("/api/v1/proposal"));
    cleanup();
    const again = show();
    await userEvent.upload(again, new File(['{\n  "version": 2\n}'], "house.json"));
    expect(await screen.findByText(/house\.json is a description/)).toBeTruthy();
    expect(asked).toEqual([]); // nothing is stored before it is said
    await userEvent.click(screen.getByRole("button", { name: "Add it" }));
    await waitFor(() => expect(asked).toContain("/api/v1/systems"));
    expect(asked).not.toContain("/api/v1/proposal");
  });

  it("needs a name where there is no file", async () => {
    show();
    const begin = screen.getByRole("button", { name: "Describe it" }) as HTMLButtonElement;
    expect(begin.disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("Name"), "Boat house");
    expect(begin.disabled).toBe(false);
  });
});
