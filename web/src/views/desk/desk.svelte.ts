import { SvelteMap } from "svelte/reactivity";
import { api, type Desk } from "../../api/client";
import { said } from "../../live/show.svelte";

export type PartName = Desk["parts"][number];

/** What the parts are called. */
export const titles: Record<PartName, string> = {
  clocks: "Clocks",
  now: "What runs",
  presses: "Last presses",
  markers: "Markers",
};

/** The part of the Desk that a path is for; undefined: it is for none. */
export function partOf(path: string): PartName | undefined {
  const part = path.startsWith("/desk/") ? path.slice("/desk/".length) : "";
  return part in titles ? (part as PartName) : undefined;
}

/** Something in a window of its own says so this often, in milliseconds; one that has not for longer is gone, or nobody sees it. */
const beat = 700;
const gone = 2500;

/** How whoever is here has arranged the Desk. */
class Arrangement {
  now = $state.raw<Desk | undefined>();
  problem = $state("");
  /** When a part that is in a window of its own has said so last. */
  private readonly windows = new SvelteMap<string, number>();
  private readonly channel = new BroadcastChannel("synaptor-desk");

  constructor() {
    this.channel.onmessage = (m) => {
      const { part, left } = m.data as { part: string; left?: boolean };
      if (left) this.windows.delete(part);
      else this.windows.set(part, Date.now());
    };
    setInterval(() => {
      for (const [part, at] of this.windows) if (Date.now() - at > gone) this.windows.delete(part);
    }, beat);
  }

  async load() {
    const { data, error } = await api.GET("/api/v1/me/desk");
    if (data) this.now = data;
    this.problem = error ? error.detail : "";
  }

  /** Stores a change of the arrangement, and shows it at once. */
  async arrange(change: Partial<Desk>) {
    if (!this.now) return;
    this.now = { ...this.now, ...change };
    const { controllers, parts, side, countTo } = this.now;
    said(await api.PUT("/api/v1/me/desk", { body: { controllers, parts, side, ...(countTo && { countTo }) } }));
    await this.load();
  }

  /** Whether a part is in a window of its own, and is seen there. */
  away = (part: string) => this.windows.has(part);

  /** Opens a part in a window of its own. */
  open(part: string) {
    open(`/desk/${part}`, `synaptor-desk-${part}`, "popup,width=900,height=620");
  }

  /** Says, until it is ended, that a part is in this window: while somebody can see it. */
  live(part: string) {
    const say = () => {
      if (document.visibilityState === "visible") this.channel.postMessage({ part });
    };
    const leave = () => this.channel.postMessage({ part, left: true });
    say();
    const timer = setInterval(say, beat);
    addEventListener("pagehide", leave);
    return () => {
      clearInterval(timer);
      removeEventListener("pagehide", leave);
      leave();
    };
  }
}

export const desk = new Arrangement();

/** The gap between keys, as a share of a key, and what is around a controller, in CSS pixels. */
const gap = 1 / 12;
const around = { x: 14, y: 38 };
/** The least and the most that a key is drawn at. */
export const least = 44;
const most = 150;

/** The side of a key at which plates of these sizes, in keys, fill a room from the left, row by row, without leaving it. */
export function keySize(plates: { width: number; height: number }[], width: number, height: number): number {
  for (let key = most; key > least; key -= 2) {
    let x = 0;
    let y = 0;
    let row = 0;
    let wide = false;
    for (const p of plates) {
      const w = p.width * key * (1 + gap) + around.x;
      const h = p.height * key * (1 + gap) + around.y;
      if (w > width) wide = true;
      if (x > 0 && x + w > width) {
        y += row;
        x = row = 0;
      }
      x += w;
      row = Math.max(row, h);
    }
    if (!wide && y + row <= height) return key;
  }
  return least;
}
