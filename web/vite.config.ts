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

/** Parts of Carbon that Synaptor has no use for, and that its own optimizer leaves in. */
const unused =
  /\.bx--(pin-code|time-picker|date-picker|pagination|table-toolbar|toolbar|search-menu|parent-row|snippet|multi-select|expandable-row|batch|action-list|action-set|fluid|toggle-input__appearance|tooltip__trigger--definition|tabs--vertical)/;

/** A rule without the selectors that are about such parts; nothing where no other is left. */
function used(rule: string, selectors: string, body: string): string {
  if (!unused.test(selectors) || selectors.includes("(")) return rule;
  const kept = selectors.split(",").filter((s) => !unused.test(s));
  return kept.length > 0 ? `${kept.join(",")}{${body}}` : "";
}

/** Takes out of Carbon's styles the fonts that it would fetch from elsewhere, for Synaptor ships its own, and the themes that Synaptor does not have: a page has g100 or g10. */
function onlyWhatIsUsed(): Plugin {
  return {
    name: "only-what-is-used",
    enforce: "pre",
    transform(code, id) {
      if (!id.endsWith("carbon-components-svelte/css/all.css")) return;
      return code
        .replace(/@font-face\s*\{[^}]*https:[^}]*\}/g, "")
        .replace(/:root(\[theme=g[89]0\])?\s*\{[^}]*\}/g, "")
        .replace(/([^{}@;]+)\{([^{}]*)\}/g, used);
    },
  };
}

export default defineConfig({
  plugins: [
    onlyWhatIsUsed(),
    svelte({ preprocess: [vitePreprocess({ script: true }), optimizeImports()] }),
    optimizeCss({ preserveAllIBMFonts: true }),
    precompress(),
  ],
  build: {
    target: "es2022",
    modulePreload: { polyfill: false },
    assetsInlineLimit: 0,
    rolldownOptions: {
      input: { app: resolve("index.html"), panel: resolve("panel.html"), overlay: resolve("overlay.html") },
    },
  },
  server: { proxy: { "/api": { target: "http://127.0.0.1:7420", ws: true } } },
});
