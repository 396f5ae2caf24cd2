import { svelte, vitePreprocess } from "@sveltejs/vite-plugin-svelte";
import { optimizeCss, optimizeImports } from "carbon-preprocess-svelte";
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { resolve } from "node:path";
import { gzipSync } from "node:zlib";
import { defineConfig, type Plugin } from "vite";

/** Writes a gzip file beside every script, style and page, for the server to hand out as it is. */
function precompress(): Plugin {
  return {
    name: "precompress",
    apply: "build",
    closeBundle() {
      for (const f of readdirSync("dist", { recursive: true, encoding: "utf8" })) {
        if (/\.(js|css|html|svg)$/.test(f)) {
          writeFileSync(`dist/${f}.gz`, gzipSync(readFileSync(`dist/${f}`), { level: 9 }));
        }
      }
    },
  };
}

/** Takes the fonts out of Carbon's styles that it would fetch from elsewhere; Synaptor ships its own. */
function withoutRemoteFonts(): Plugin {
  return {
    name: "without-remote-fonts",
    enforce: "pre",
    transform(code, id) {
      if (!id.endsWith("carbon-components-svelte/css/all.css")) return;
      return code.replace(/@font-face\s*\{[^}]*https:[^}]*\}/g, "");
    },
  };
}

export default defineConfig({
  plugins: [
    withoutRemoteFonts(),
    svelte({ preprocess: [vitePreprocess({ script: true }), optimizeImports()] }),
    optimizeCss({ preserveAllIBMFonts: true }),
    precompress(),
  ],
  build: {
    target: "es2022",
    modulePreload: { polyfill: false },
    assetsInlineLimit: 0,
    rolldownOptions: {
      input: { app: resolve("index.html"), panel: resolve("panel.html") },
    },
  },
  server: { proxy: { "/api": { target: "http://127.0.0.1:7420", ws: true } } },
});
