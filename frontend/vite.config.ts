import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    outDir: "../src/pale_static/web/app",
    emptyOutDir: true,
    // Fonts as files of their own: the page's policy allows no embedded ones.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 2000,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8710" } },
});
