import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// The built page is a Django template: the nonce is filled in at each request.
export default defineConfig({
  plugins: [react()],
  html: { cspNonce: "{{ request.csp_nonce }}" },
  build: {
    assetsDir: "static",
    target: "es2022",
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 900,
  },
});
