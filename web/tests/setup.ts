/** What jsdom lacks and the screens ask for. */
import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";

declare global {
  interface Window {
    /** Answers in the place of a server. */
    answer: typeof fetch | undefined;
  }
}

Object.defineProperty(window, "matchMedia", {
  value: () => ({ matches: false, addEventListener: () => undefined }),
});
// Everything is as large as a sheet: what draws only what is in sight draws it.
globalThis.ResizeObserver = class {
  constructor(private readonly told: ResizeObserverCallback) {}
  observe(target: Element) {
    const contentRect = { width: 1000, height: 600 } as DOMRectReadOnly;
    this.told([{ target, contentRect } as ResizeObserverEntry], this);
  }
  unobserve() {}
  disconnect() {}
};
// The API's client keeps the fetch that it finds when it is made: this one asks whoever answers now.
const Plain = globalThis.Request;
globalThis.Request = class extends Plain {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, window.location.href) : input, init);
  }
};
const plain = globalThis.fetch;
globalThis.fetch = (...asked) => (window.answer ?? plain)(...asked);
// A slow machine is no fault.
configure({ asyncUtilTimeout: 15_000 });
HTMLCanvasElement.prototype.getContext = () => null;

afterEach(() => {
  cleanup();
  localStorage.clear();
  window.answer = undefined;
});
