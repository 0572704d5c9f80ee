import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react({ jsxImportSource: "isolating" }), tailwindcss()],
  // Every text passes it before it is shown: see there.
  resolve: { alias: { isolating: `${import.meta.dirname}/src/isolating` } },
  // What the command line draws a report with stands alone.
  ssr: { noExternal: true },
  server: { host: "127.0.0.1", proxy: { "/api": { target: "http://127.0.0.1:8440" } } },
  // Plain functions share no state, so their files need no processes of their own.
  test: { include: ["src/**/*.test.ts"], isolate: false },
});
