import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// the process that builds or serves is Node, whose types are not needed for anything else
const node = globalThis as { process?: { env: Record<string, string | undefined> } };
const behind = node.process?.env.SULVAK_BEHIND;

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // ./sulvak dev: what is not the screen's own goes to the web process behind it
  server: behind ? { proxy: { "/api": behind, "/live": { target: behind, ws: true } } } : {},
  build: { chunkSizeWarningLimit: 1200, assetsInlineLimit: 0 },
});
