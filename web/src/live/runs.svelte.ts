import { api, type Entry, type LeftOver, type Run } from "../api/client";
import { feed } from "./feed.svelte";
import { said } from "./show.svelte";

/** The runs that go on, oldest first. */
export function running(): Run[] {
  const out: Run[] = [];
  for (const value of feed.of("run").values()) {
    if ((value as Run).state === "" && !(value as Run).ended) out.push(value as Run);
  }
  return out.sort((a, b) => (a.started < b.started ? -1 : 1));
}

/** What runs that were cut off have left behind. */
export function leftOver(): LeftOver[] {
  return (feed.values.get("left") as LeftOver[] | undefined) ?? [];
}

/** Whether a press may still be put back, as far as can be told from here; Synaptor says what would return. */
export function mayReturn(e: Entry, now: number): boolean {
  return (
    now - Date.parse(e.at) < restorableFor &&
    !["refused", "dropped", "guarded"].includes(e.outcome) &&
    !["page", "access", "decision", "roll call", "put back"].includes(e.gesture)
  );
}

/** How long after it something can be put back, in milliseconds. */
const restorableFor = 120_000;

/** Halts all runs. No picture changes by it. */
export async function haltAll() {
  said(await api.POST("/api/v1/halt", { body: {} }));
}

/** Halts the runs of one macro. */
export async function haltMacro(macro: string) {
  said(await api.POST("/api/v1/halt", { body: { macro } }));
}
