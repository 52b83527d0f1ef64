import { defineConfig } from "vitest/config";

// tools, snapping, layout and the store, driven without a browser; what reaches the page goes to tests/browser
export default defineConfig({
  test: {
    include: ["tests/**/*.test.ts"],
    environment: "node",
    globalSetup: ["tests/core.mjs"],
    testTimeout: 60_000,
    // one process, in which modules are loaded once: every test sets the store and the globals it needs itself
    pool: "threads",
    isolate: false,
    unstubGlobals: true,
  },
});
