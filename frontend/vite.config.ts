import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 600 },
  server: { host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:8420" } },
  test: { environment: "node" },
});
