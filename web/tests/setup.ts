/** What jsdom lacks and the screens ask for. */
import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";

Object.defineProperty(window, "matchMedia", {
  value: () => ({ matches: false, addEventListener: () => undefined }),
});
globalThis.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
};
// A slow machine is no fault.
configure({ asyncUtilTimeout: 15_000 });
HTMLCanvasElement.prototype.getContext = () => null;

afterEach(() => {
  cleanup();
  localStorage.clear();
});
