import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

// The built page is a Django template: the nonce is filled in at each request.
export default defineConfig({
  plugins: [
    react(),
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src/offline",
      filename: "sw.ts",
      injectRegister: null,
      manifest: false,
      injectManifest: { globPatterns: ["static/**/*.{js,css,woff2}"], rollupFormat: "iife" },
    }),
  ],
  define: { __BUILD__: JSON.stringify(new Date().toISOString()) },
  html: { cspNonce: "{{ request.csp_nonce }}" },
  build: {
    assetsDir: "static",
    target: "es2022",
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 900,
  },
});
