import {
  api,
  type Macro,
  type MacroRow,
  type MacroStep,
  type NewMacroStep,
  type Rehearsed,
  type Run,
} from "../../api/client";
import { feed } from "../../live/feed.svelte";
import { notices, said } from "../../live/show.svelte";

/** The macro that is open, as the server works it out, with its rehearsal, and what is selected in it. */
class OpenMacro {
  rows = $state.raw<MacroRow[]>([]);
  loaded = $state(false);
  problem = $state("");
  doc = $state.raw<Macro | undefined>();
  rehearsed = $state.raw<Rehearsed | undefined>();
  /** Why it cannot be rehearsed. */
  cannot = $state("");
  seed = $state(0);
  /** The step that is selected, and those beside it that are too. */
  step = $state("");
  more = $state.raw<string[]>([]);
  /** The moment that is looked at, in milliseconds from the start. */
  cursor = $state(0);
  copied = $state.raw<string[]>([]);
  private turn = 0;
  private latest: Promise<void> = Promise.resolve();

  readonly lines = $derived(this.doc?.lines ?? []);
  readonly current = $derived(this.lines.find((l) => l.id === this.step));
  /** The last run of it, while it is listed. */
  readonly run = $derived.by(() => {
    let last: Run | undefined;
    for (const value of feed.of("run").values()) {
      const run = value as Run;
      if (run.macro === this.doc?.id && (!last || run.started > last.started)) last = run;
    }
    return last;
  });

  async list() {
    const { data, error } = await api.GET("/api/v1/macros");
    if (data) this.rows = data;
    this.problem = error ? error.detail : "";
    this.loaded = true;
  }

  /** Loads a macro; where a later call overtakes it, that one is waited for. */
  async load(id: string) {
    const turn = ++this.turn;
    this.latest = this.fetch(id, turn);
    await this.latest;
    while (turn !== this.turn) {
      const last = this.latest;
      await last;
      if (last === this.latest) return;
    }
  }

  private async fetch(id: string, turn: number) {
    if (!id) {
      this.doc = undefined;
      return;
    }
    const [doc, rehearsed] = await Promise.all([
      api.GET("/api/v1/macros/{id}", { params: { path: { id } } }),
      api.GET("/api/v1/macros/{id}/rehearsal", { params: { path: { id }, query: { seed: String(this.seed) } } }),
    ]);
    if (turn !== this.turn) return;
    const silent = doc.error?.status === 503;
    this.problem = silent ? (doc.error?.detail ?? "") : "";
    // What is held stays while it cannot be read again; one that is gone, or another, does not.
    if (silent && this.doc?.id === id) return;
    const another = this.doc?.id !== id;
    if (another) {
      this.step = doc.data?.lines[0]?.id ?? "";
      this.more = [];
      this.cursor = 0;
    }
    this.doc = doc.data;
    // While it runs, what it was about to do stays: the readings are on their way.
    if (!another && this.run && !this.run.ended && this.rehearsed) return;
    this.rehearsed = rehearsed.data;
    this.cannot = rehearsed.error?.detail ?? "";
  }

  /** All that is selected, in the order of the list. */
  selected(): string[] {
    const all = new Set([this.step, ...this.more]);
    return this.lines.filter((l) => all.has(l.id)).map((l) => l.id);
  }

  select(id: string, add = false) {
    if (add && this.step) this.more = [...this.more, this.step];
    else this.more = [];
    this.step = id;
  }

  /** Adds a step where it belongs while a step is selected; true when it worked. */
  async add(step: NewMacroStep, outside = false): Promise<boolean> {
    const id = this.doc?.id;
    if (!id) return false;
    const r = await api.POST("/api/v1/macros/{id}/steps", {
      params: { path: { id } },
      body: { ...step, after: this.step, outside },
    });
    if (!said(r)) return false;
    await this.load(id);
    // What has branches goes on in its first.
    const made = r.data?.id ?? "";
    const branch = this.lines.find((l) => l.parent === made && l.kind === "branch");
    this.select(branch?.id ?? made);
    return true;
  }

  async move(way: "up" | "down" | "in" | "out") {
    const id = this.doc?.id;
    if (!id || !this.step) return;
    if (
      said(
        await api.POST("/api/v1/macros/{id}/steps/move", {
          params: { path: { id } },
          body: { steps: [this.step], way },
        }),
      )
    )
      await this.load(id);
  }

  async remove() {
    const id = this.doc?.id;
    const steps = this.selected();
    if (!id || steps.length === 0) return;
    const at = this.lines.findIndex((l) => l.id === steps[0]);
    if (said(await api.POST("/api/v1/macros/{id}/steps/delete", { params: { path: { id } }, body: { steps } }))) {
      await this.load(id);
      this.select(this.lines[Math.min(at, this.lines.length - 1)]?.id ?? "");
    }
  }

  copy() {
    this.copied = this.selected();
    if (this.copied.length > 0)
      notices.add("done", `${this.copied.length === 1 ? "A step is" : `${this.copied.length} steps are`} copied.`);
  }

  async paste(steps = this.copied) {
    const id = this.doc?.id;
    if (!id || steps.length === 0) return;
    const r = await api.POST("/api/v1/macros/{id}/steps/paste", {
      params: { path: { id } },
      body: { steps, after: this.step },
    });
    if (!said(r)) return;
    await this.load(id);
    this.select(r.data?.steps[0] ?? this.step);
  }

  async shift(step: string, byMs: number) {
    const id = this.doc?.id;
    if (!id || byMs === 0) return;
    said(await api.POST("/api/v1/macros/{id}/steps/shift", { params: { path: { id } }, body: { step, byMs } }));
  }

  /** Changes a step that is known at a revision; gives the one it has then, or what is wrong with it. */
  async change(step: MacroStep, rev: number, to: Partial<NewMacroStep>) {
    return await api.PUT("/api/v1/macros/{id}/steps/{step}", {
      params: { path: { id: step.macro, step: step.id } },
      body: { ...fieldsOfStep(step), ...to, rev },
    });
  }
}

/** The fields of a step as they can be sent back. */
export function fieldsOfStep(l: MacroStep) {
  const action = l.action && {
    device: l.action.device,
    action: l.action.action,
    params: l.action.params ?? {},
  };
  return {
    kind: l.kind,
    name: l.name,
    note: l.note,
    off: l.off,
    action,
    ms: l.ms,
    frames: l.frames,
    when: l.when,
    limitMs: l.limitMs,
    else: l.else,
    curve: l.curve,
    weight: l.weight,
    count: l.count,
    run: l.run,
  };
}

export const macro = new OpenMacro();

/** A time in words: 8 s, 2.5 s, 350 ms. */
export function time(ms: number): string {
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (ms < 60_000) return `${Number((ms / 1000).toFixed(ms < 10_000 ? 2 : 1))} s`;
  return `${Math.floor(ms / 60_000)}:${String(Math.round((ms % 60_000) / 1000)).padStart(2, "0")} min`;
}
