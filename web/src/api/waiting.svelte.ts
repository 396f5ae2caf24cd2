import type { Middleware } from "openapi-fetch";

/** From when on a request is seen to be under way, and from when on it can be stopped, in milliseconds. */
const seen = 500;
const stoppable = 5000;
/** How long an undo waits for what was asked before it, in milliseconds. */
const patience = 2000;

/** A request that is under way. */
interface Sent {
  /** When it was sent, as a browser counts. */
  since: number;
  stop: () => void;
  /** It may change something. */
  writes: boolean;
  ended: Promise<void>;
  end: () => void;
}

/** The requests that are under way: what takes long is shown, and what takes very long can be stopped. */
class Waiting {
  /** Something takes longer than one notices. */
  long = $state(false);
  canStop = $state(false);
  /** Effects may ask, so nothing here is a state. */
  private readonly all = new Map<string, Sent>();

  begin(id: string, writes: boolean, stop: () => void) {
    let end = () => {};
    const ended = new Promise<void>((go) => (end = go));
    this.all.set(id, { since: performance.now(), stop, writes, ended, end });
    for (const after of [seen, stoppable]) setTimeout(() => this.look(), after + 5);
  }

  /** Comes when all has been answered that may change something and is under way now, or takes too long. */
  written(): Promise<unknown> {
    const before = [...this.all.values()].filter((r) => r.writes).map((r) => r.ended);
    return Promise.race([Promise.all(before), new Promise((late) => setTimeout(late, patience))]);
  }

  end(id: string) {
    this.all.get(id)?.end();
    this.all.delete(id);
    this.look();
  }

  /** Waits no longer for any of what takes very long. */
  stop() {
    for (const r of this.for(stoppable)) r.stop();
  }

  private look() {
    this.long = this.for(seen).length > 0;
    this.canStop = this.for(stoppable).length > 0;
  }

  private for(ms: number) {
    return [...this.all.values()].filter((r) => performance.now() - r.since >= ms);
  }
}

export const waiting = new Waiting();

const problem = (status: number, title: string, detail: string) =>
  Response.json(
    { type: "about:blank", title, status, detail },
    { status, headers: { "Content-Type": "application/problem+json" } },
  );

/**
 * Keeps count of the requests. One that was stopped, or that nobody answers, fails in words like any other. An undo
 * overtakes nothing: it is about what was done before it.
 */
export const counted: Middleware = {
  async onRequest({ request, schemaPath, id }) {
    const ends = new AbortController();
    const before = /\/(un|re)do$/.test(schemaPath) ? waiting.written() : undefined;
    waiting.begin(id, request.method !== "GET", () => ends.abort());
    await before;
    return new Request(request, { signal: AbortSignal.any([request.signal, ends.signal]) });
  },
  onResponse({ id }) {
    waiting.end(id);
  },
  onError({ request, id }) {
    waiting.end(id);
    if (!request.signal.aborted) return problem(503, "Service Unavailable", "Synaptor does not answer.");
    const asked = request.method === "GET" ? "" : " What was asked for may have happened all the same.";
    return problem(499, "Stopped", `Stopped.${asked}`);
  },
};
