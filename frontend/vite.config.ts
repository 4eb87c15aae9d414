import react from "@vitejs/plugin-react";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

/** What a pupil practises from: asked of the house first, taken from this device where there is no way to it. */
const PRACTISED =
  /^https?:\/\/[^/]+\/api\/(session|today|record|home|studio\/settings|assignments\/[^/]+\/(score|room)|takes\/[^/]+(\/score)?)(\?|$)/;
const WEEK_S = 7 * 24 * 3600;

export default defineConfig({
  plugins: [
    react(),
    VitePWA({
      // A new version waits until it is asked for: a page is never taken away from under a recording.
      registerType: "prompt",
      injectRegister: null,
      manifest: {
        name: "Attentive Owl",
        short_name: "Owl",
        description: "String warm-ups: hear them, play them, see where every note landed.",
        start_url: "/today",
        display: "standalone",
        background_color: "#F5EFE3",
        theme_color: "#F5EFE3",
        icons: [
          { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
          { src: "/icon-maskable-512.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
        ],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,woff2}"],
        // The teacher's pages are for a desk with a network.
        globIgnores: ["**/{Workshop,Studio,People,Week,TakeListPage,TakePage}-*"],
        navigateFallback: "/index.html",
        navigateFallbackDenylist: [/^\/api\//],
        cleanupOutdatedCaches: true,
        clientsClaim: true,
        runtimeCaching: [
          {
            urlPattern: PRACTISED,
            handler: "NetworkFirst",
            options: {
              cacheName: "owl-practice",
              networkTimeoutSeconds: 5,
              expiration: { maxEntries: 200, maxAgeSeconds: 2 * WEEK_S },
            },
          },
          {
            // The sound of an address never changes.
            urlPattern: ({ url, sameOrigin }) => sameOrigin && url.pathname === "/api/demonstration",
            handler: "CacheFirst",
            options: {
              cacheName: "owl-sounds",
              rangeRequests: true,
              cacheableResponse: { statuses: [200] },
              expiration: { maxEntries: 40, maxAgeSeconds: 2 * WEEK_S },
            },
          },
        ],
      },
    }),
  ],
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 600 },
  server: { host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:8420" } },
  test: {
    environment: "node",
    // A page of its own for each file took three quarters of the time.
    isolate: false,
    // Only a test that hangs is too slow: what runs beside it may have the processor for seconds.
    testTimeout: 60_000,
    setupFiles: ["src/testing/patience.ts"],
  },
});
