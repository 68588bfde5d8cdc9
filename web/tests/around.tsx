/** What every screen stands in: queries, settings, an address that can be blocked, what is said in passing. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import axe from "axe-core";
import type { ReactNode } from "react";
import { createMemoryRouter, Link, RouterProvider } from "react-router";
import { expect } from "vitest";

import { SettingsProvider } from "../src/app/settings";
import { Told } from "../src/components/Told";

/** Shows it at an address; a link named "elsewhere" leads away. */
export function showAt(children: ReactNode, at = "/") {
  const router = createMemoryRouter(
    [
      {
        path: "*",
        element: (
          <SettingsProvider>
            <Told>
              <Link to="/elsewhere">elsewhere</Link>
              {children}
            </Told>
          </SettingsProvider>
        ),
      },
      { path: "/elsewhere", element: <p>another screen</p> },
    ],
    { initialEntries: [at] },
  );
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const shown = render(
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>,
  );
  return { ...shown, queries, router };
}

/** Nothing that axe finds; colours are looked at in the browser, where there are any. */
export async function fineForAll(element: Element): Promise<void> {
  const { violations } = await axe.run(element, {
    rules: { "color-contrast": { enabled: false }, region: { enabled: false } },
  });
  expect(violations.map((one) => `${one.id}: ${one.nodes.map((node) => node.html).join(" ")}`)).toEqual([]);
}

/** What was asked of the server, other than to look. */
export const sent: { what: string; body: unknown }[] = [];

/** Answers in the place of the server, by the end of "METHOD /path"; { refused } is a 422 with where it hurts. */
export function answers(by: Record<string, unknown>): void {
  sent.length = 0;
  window.answer = async (request) => {
    const asked = request as Request;
    const what = `${asked.method} ${new URL(asked.url).pathname}`;
    const text = await asked.clone().text();
    if (asked.method !== "GET") sent.push({ what, body: text ? (JSON.parse(text) as unknown) : undefined });
    const key = Object.keys(by).find((end) => what.endsWith(end));
    const found = key === undefined ? { refused: { detail: "none" } } : by[key];
    const refused = found !== null && typeof found === "object" && "refused" in found;
    return new Response(JSON.stringify(refused ? found.refused : found), {
      status: refused ? (key === undefined ? 404 : 422) : 200,
      headers: { "Content-Type": "application/json" },
    });
  };
}
