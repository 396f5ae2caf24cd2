import { svelte, vitePreprocess } from "@sveltejs/vite-plugin-svelte";
import { resolve } from "node:path";
import { defineConfig } from "vite";

/** The page of test/paint, which is no part of what is shipped. */
export default defineConfig({
  root: resolve("test"),
  plugins: [svelte({ preprocess: vitePreprocess({ script: true }), configFile: false })],
  build: {
    target: "es2022",
    modulePreload: { polyfill: false },
    assetsInlineLimit: 0,
    rolldownOptions: { input: resolve("test/tiles.html") },
  },
});
