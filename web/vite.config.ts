import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  html: { cspNonce: "winnow-nonce" },
  build: {
    outDir: "../winnow/api/static",
    emptyOutDir: true,
    // Data URIs are refused by the content security policy.
    assetsInlineLimit: 0,
  },
});
