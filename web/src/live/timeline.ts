import type { Macro } from "../api/client";

/** A stretch of the time line: so many milliseconds on so many pixels. */
export interface Stretch {
  from: number;
  to: number;
  x: number;
  width: number;
  /** It is a long wait that was folded. */
  folded: boolean;
}

/** The time line that the lanes and what the audience sees have in common. */
export interface Axis {
  line: Stretch[];
  /** In milliseconds. */
  length: number;
}

/** The width of the names at the left of every lane. */
export const head = 176;

/** What is left free at the right: a scroll bar, and room to see where it ends. */
const tail = 40;

/** Lays a macro out in a room that is so many pixels wide; a rehearsal may end later than the plan. */
export function axis(doc: Macro, rehearsedMs: number, room: number): Axis {
  const length = Math.max(doc.lengthMs, rehearsedMs) * 1.04;
  return { line: stretches(doc, length, Math.max(320, room - head - tail)), length };
}

/** What a folded wait takes, and from which length on waits are folded. */
const foldWidth = 64;
const foldFrom = 1000;

/**
 * Lays the plan of a macro out along a ruler of a width. Waits over a second in which nothing else happens are
 * folded to a fixed width, so that what is close together can be seen.
 */
function stretches(doc: Macro, length: number, width: number): Stretch[] {
  const at = (segment: number) => doc.beginsMs[segment] ?? 0;
  const busy = doc.bars.map((b) => [at(b.segment) + b.dispatchMs, at(b.segment) + b.settlesMs] as const);
  const folds: [number, number][] = [];
  for (const p of doc.pauses) {
    if (p.open || p.lengthMs <= foldFrom) continue;
    const end = at(p.segment) + p.atMs + p.lengthMs;
    let begin = at(p.segment) + p.atMs;
    for (const [from, to] of busy) if (from < end && to > begin) begin = Math.max(begin, Math.min(to, end));
    if (end - begin > foldFrom && !folds.some(([f, t]) => f < end && t > begin)) folds.push([begin + 150, end - 150]);
  }
  folds.sort((a, b) => a[0] - b[0]);
  const total = Math.max(length, 200);
  const open = total - folds.reduce((sum, [f, t]) => sum + t - f, 0);
  const scale = Math.max(0.02, (width - folds.length * foldWidth) / Math.max(open, 200));
  const out: Stretch[] = [];
  let x = 0;
  let from = 0;
  const push = (to: number, w: number, folded: boolean) => {
    if (to <= from) return;
    out.push({ from, to, x, width: w, folded });
    x += w;
    from = to;
  };
  for (const [f, t] of folds) {
    push(f, (f - from) * scale, false);
    push(t, foldWidth, true);
  }
  push(total, (total - from) * scale, false);
  return out;
}

/** Where a time is along the ruler. */
export function toX(list: Stretch[], ms: number): number {
  const s = list.find((s) => ms <= s.to) ?? list[list.length - 1];
  return s ? s.x + (Math.min(Math.max(ms, s.from), s.to) - s.from) * (s.width / (s.to - s.from)) : 0;
}

/** Which time a place along the ruler is. */
export function toMs(list: Stretch[], x: number): number {
  const s = list.find((s) => x <= s.x + s.width) ?? list[list.length - 1];
  return s ? s.from + (Math.min(Math.max(x, s.x), s.x + s.width) - s.x) * ((s.to - s.from) / s.width) : 0;
}

/** The marks of the ruler: at least 70 px apart, none in what is folded. */
export function ticks(list: Stretch[]): { ms: number; x: number }[] {
  const out: { ms: number; x: number }[] = [];
  const steps = [10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 30_000, 60_000, 300_000, 3_600_000];
  for (const s of list) {
    if (s.folded) continue;
    const scale = s.width / (s.to - s.from);
    const step = steps.find((v) => v * scale >= 70) ?? 3_600_000;
    for (let ms = Math.ceil(s.from / step) * step; ms <= s.to; ms += step) {
      const x = toX(list, ms);
      if (out.length === 0 || x - (out[out.length - 1]?.x ?? 0) >= 50) out.push({ ms, x });
    }
  }
  return out;
}

/** Puts what has a place and a width into rows, so that nothing overlaps. */
export function pack<T extends { x: number; width: number }>(list: T[]): (T & { row: number })[] {
  const ends: number[] = [];
  return [...list]
    .sort((a, b) => a.x - b.x)
    .map((b) => {
      let row = ends.findIndex((end) => end <= b.x);
      if (row < 0) row = ends.length;
      ends[row] = b.x + b.width;
      return { ...b, row };
    });
}
