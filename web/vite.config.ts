import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src",
      filename: "sw.ts",
      registerType: "prompt",
      injectRegister: false,
      injectManifest: { globPatterns: ["**/*.{js,css,html,svg,woff2,png}"] },
      manifest: {
        name: "Plumb",
        short_name: "Plumb",
        description: "Which injector leans, what to do with it, what could still imitate it.",
        start_url: "/",
        scope: "/",
        display: "standalone",
        background_color: "#f5f2ea",
        theme_color: "#fbf9f4",
        icons: [
          { src: "/icon-192.png", sizes: "192x192", type: "image/png" },
          { src: "/icon-512.png", sizes: "512x512", type: "image/png" },
          {
            src: "/icon-maskable-512.png",
            sizes: "512x512",
            type: "image/png",
            purpose: "maskable",
          },
        ],
      },
    }),
  ],
  // The server puts a fresh word here for each page; what makes styles while a window is open finds it there.
  html: { cspNonce: "__PLUMB_NONCE__" },
  define: { __webpack_nonce__: "document.querySelector('meta[property=csp-nonce]').nonce" },
  build: {
    target: "es2022",
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    manifest: true,
    // What several screens use comes in one file: a dozen of a kilobyte each cost a workshop's Wi-Fi more than they save.
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            // Two screens open a job, and no job opens with what that takes: it stays a chunk of its own.
            { name: "shared", test: /src\/(?!features\/today\/)/, minShareCount: 2 },
            { name: "shared", test: /node_modules/, minShareCount: 2 },
            // What a sheet has beside its table, once that stands.
            { name: "beside", test: /\/(EngineRun|TraceSlot|JobTools|EngineMap|Photos)\.tsx$/ },
          ],
        },
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8650" } },
});
