import "../src/styles/fonts.css";
import "../src/styles/tokens.css";
import { mount } from "svelte";
import type { Face } from "../src/api/client";
import Dial from "../src/parts/Dial.svelte";
import Tile from "../src/parts/Tile.svelte";

/** Faces as the interface draws them, one beside the other: test/paint compares them with those that are painted. */
interface Drawn {
  face: Face;
  kind: string;
  x: number;
  y: number;
  width: number;
  height: number;
}

const drawn = (await (await fetch("/faces.json")).json()) as Drawn[];
for (const d of drawn) {
  const at = document.createElement("div");
  at.className = "at";
  at.style.cssText = `left: ${d.x}px; top: ${d.y}px; width: ${d.width}px; height: ${d.height}px`;
  document.getElementById("app")!.append(at);
  if (d.kind === "key") mount(Tile, { target: at, props: { face: d.face, still: true } });
  else mount(Dial, { target: at, props: { face: d.face, kind: d.kind } });
}
await document.fonts.load("600 12px 'IBM Plex Sans Condensed'");
await document.fonts.load("400 12px 'IBM Plex Sans Condensed'");
await document.fonts.ready;
document.body.dataset.ready = "yes";
