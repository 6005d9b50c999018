import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The server puts a fresh word here for each page; what makes styles while a window is open finds it there.
  html: { cspNonce: "__PLUMB_NONCE__" },
  define: { __webpack_nonce__: "document.querySelector('meta[property=csp-nonce]').nonce" },
  build: { target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 700, manifest: true },
  server: { proxy: { "/api": "http://127.0.0.1:8650" } },
});
