import type { Middleware } from "openapi-fetch";

/** From when on a request is seen to be under way, and from when on it can be stopped, in milliseconds. */
const seen = 500;
const stoppable = 5000;

/** The requests that are under way: what takes long is shown, and what takes very long can be stopped. */
class Waiting {
  /** Something takes longer than one notices. */
  long = $state(false);
  canStop = $state(false);
  /** When each was sent, as a browser counts, and how it is stopped. Effects may ask, so nothing here is a state. */
  private readonly all = new Map<string, { since: number; stop: () => void }>();

  begin(id: string, stop: () => void) {
    this.all.set(id, { since: performance.now(), stop });
    for (const after of [seen, stoppable]) setTimeout(() => this.look(), after + 5);
  }

  end(id: string) {
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

/** Keeps count of the requests. One that was stopped, or that nobody answers, fails in words like any other. */
export const counted: Middleware = {
  onRequest({ request, id }) {
    const ends = new AbortController();
    waiting.begin(id, () => ends.abort());
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
