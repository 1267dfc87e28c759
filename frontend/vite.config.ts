import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** The scripts of each place, by its address: those with a slash show one thing of their kind. */
const PLACES: Record<string, string> = {
  bench: "BenchStart",
  "bench/": "Bench",
  materials: "Materials",
  reel: "ReelStart",
  "reel/": "Reel",
  renders: "Renders",
  shelf: "Shelf",
  "shelf/": "MacroOpen",
};

/** Tells public/early.js which scripts to load for the address that is asked for. */
function early(): Plugin {
  return {
    name: "early",
    apply: "build",
    transformIndexHtml: {
      order: "post",
      handler(_, { bundle }) {
        const chunks = Object.values(bundle ?? {}).filter((one) => one.type === "chunk");
        const needed = (name: string) => {
          const chunk = chunks.find((one) => one.name === name && one.isDynamicEntry);
          if (!chunk) throw new Error(`no script for ${name}`);
          return [chunk.fileName, ...chunk.imports].map((file) => `/${file}`);
        };
        const places = Object.entries(PLACES).map(([place, name]) => [place, needed(name)]);
        return [
          {
            tag: "script",
            attrs: {
              src: "/early.js",
              "data-places": JSON.stringify(Object.fromEntries(places)),
            },
            injectTo: "head",
          },
        ];
      },
    },
  };
}

export default defineConfig({
  plugins: [react(), early()],
  build: {
    outDir: "../src/pale_static/web/app",
    emptyOutDir: true,
    // Fonts as files of their own: the page's policy allows no embedded ones.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 2000,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8710" } },
});
