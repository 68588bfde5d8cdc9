import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  base: "/static/",
  plugins: [react()],
  build: { chunkSizeWarningLimit: 900 },
  // One world for all files: what they change they put back (tests/setup.ts).
  test: {
    environment: "jsdom",
    testTimeout: 30_000,
    isolate: false,
    pool: "threads",
    include: ["tests/**/*.test.{ts,tsx}"],
    setupFiles: ["tests/setup.ts"],
  },
});
