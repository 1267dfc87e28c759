import { readFileSync } from "node:fs";
import { basename } from "node:path";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";
import { sheet } from "./sheet.tsx";

/** The module of each place, and its page, as src/places.tsx lists them. */
function places(): Map<string, string> {
  const text = readFileSync(new URL("src/places.tsx", import.meta.url), "utf8");
  const pages = new Map<string, string>();
  let name = "";
  for (const [, place, kind, module] of text.matchAll(
    /name: "(\w+)"|(list|open): \(\) => import\("\.\/\w+\/(\w+)"\)/g,
  )) {
    if (place) name = place;
    else pages.set(kind === "open" ? `${name}-open` : name, module ?? "");
  }
  return pages;
}

/** Makes a page for each place, which requests all of the place's scripts at once. */
function pages(): Plugin {
  return {
    name: "pages",
    apply: "build",
    enforce: "post",
    generateBundle(_, bundle) {
      const index = bundle["index.html"];
      if (index?.type !== "asset") throw new Error("no index.html");
      // Before the style sheet: a script waits for style sheets before it.
      const html = String(index.source).replace(
        "<script",
        '<script src="/early.js"></script>\n    <script',
      );
      index.source = html;
      const chunks = Object.values(bundle).filter((one) => one.type === "chunk");
      for (const [place, name] of places()) {
        const chunk = chunks.find((one) => one.name === name && one.isDynamicEntry);
        if (!chunk) throw new Error(`no script for ${name}`);
        const needed = new Set([chunk.fileName]);
        for (const file of needed) {
          const of = bundle[file];
          if (of?.type === "chunk") for (const other of of.imports) needed.add(other);
        }
        const links = [...needed]
          .filter((file) => !html.includes(file))
          .map((file) => `<link rel="modulepreload" crossorigin href="/${file}">\n    `);
        this.emitFile({
          type: "asset",
          fileName: `${place}.html`,
          source: html.replace('<link rel="stylesheet"', `${links.join("")}<link rel="stylesheet"`),
        });
      }
    },
  };
}

/** The components' styles, as a style sheet to import. */
function styles(): Plugin {
  const name = "virtual:antd.css";
  return {
    name: "styles",
    resolveId: (asked) => (asked === name ? name : undefined),
    load: (asked) => (asked === name ? sheet() : undefined),
  };
}

/** A component's class begins with the component's name, for tests and tools. */
const scopedName = (name: string, file: string) =>
  `${basename(file.split("?")[0] ?? "", ".module.css")}-${name}`;

export default defineConfig({
  css: { modules: { generateScopedName: scopedName } },
  plugins: [react({ compiler: true }), styles(), pages()],
  build: {
    outDir: "../src/pale_static/web/app",
    emptyOutDir: true,
    // One style sheet, in the order of imports: a component's rules stand after the shared ones.
    cssCodeSplit: false,
    // Fonts as separate files: the page's policy allows no embedded ones.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 2000,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8710" }, fs: { allow: [".."] } },
});
