import { SvelteMap } from "svelte/reactivity";
import { Values } from "./values.svelte";
import { mayStay, type Entry, type LiveError, type LiveInput, type LiveMessage, type LiveUpdate } from "../api/client";

/** What a hand does with a control: an edge, with the amount of a turn, a slide or a swipe. */
export type Touch = Pick<LiveInput, "edge" | "amount"> & Partial<Pick<LiveInput, "text">>;

/** Whether an edge is one of a press. */
export const presses = (t: Touch) => t.edge === "down" || t.edge === "up" || t.edge === "cancel";

/** So many faces are drawn within a frame; of a change of more, the rest comes with the frames after it, so that what moves goes on moving. */
const facesAtOnce = 10;

const firstRetry = 200;
const longestRetry = 2000;

/**
 * The live socket: the last value of every key of the topics that are followed.
 * Values are replaced whole; a key that is gone is deleted.
 */
class Feed {
  readonly values = new Values();
  /** Keys such as run/ID are by themselves, by what stands before the stroke: they come and go all night, and are looked through together. */
  private readonly kinds = {
    run: new SvelteMap<string, unknown>(),
    hardware: new SvelteMap<string, unknown>(),
  };
  connected = $state(false);
  /** Counts the connections, so that others can load again what they fetched. */
  epoch = $state(0);
  lastError = $state("");

  private socket: WebSocket | undefined;
  private topics = new Map<string, string[]>();
  private seq = 0;
  private inputs = 0;
  private retry = firstRetry;
  private asked = false;
  private wanted = "";

  start() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/api/v1/live`);
    this.socket = socket;
    let opened = false;
    socket.onopen = () => {
      opened = true;
      this.retry = firstRetry;
      this.seq = 0;
      this.inputs = 0;
      this.ask(true);
    };
    socket.onmessage = (m) => this.take(JSON.parse(m.data as string) as LiveUpdate | LiveError);
    socket.onclose = () => {
      if (!opened) void mayStay(); // it was not let in, or nobody answers
      this.connected = false;
      setTimeout(() => this.start(), this.retry);
      this.retry = Math.min(this.retry * 2, longestRetry);
    };
  }

  /** All values of a kind, by their keys. */
  of(kind: "run" | "hardware"): SvelteMap<string, unknown> {
    return this.kinds[kind];
  }

  /** Faces that wait for the next frame. */
  private readonly late = new Map<string, unknown>();

  /** Takes in what has changed: few faces at once, many over some frames, the newest of each. */
  private change(values: Record<string, unknown>) {
    const waiting = this.late.size > 0;
    let now = 0;
    for (const [key, value] of Object.entries(values)) {
      if (key.startsWith("face/") && (this.late.has(key) || ++now > facesAtOnce)) this.late.set(key, value);
      else this.put(key, value);
    }
    if (!waiting && this.late.size > 0) this.soon();
  }

  private soon() {
    const next = () => {
      for (const [key, value] of [...this.late].slice(0, facesAtOnce)) {
        this.late.delete(key);
        this.put(key, value);
      }
      if (this.late.size > 0) this.soon();
    };
    if (document.hidden) setTimeout(next, 16);
    else requestAnimationFrame(next);
  }

  private readonly hearers = new Set<(e: Entry) => void>();

  /** Hands what comes into the journal on, while its topic is followed, until the function that is given back is called. It is not kept here: a night has much of it. */
  hear(hearer: (e: Entry) => void): () => void {
    this.hearers.add(hearer);
    return () => this.hearers.delete(hearer);
  }

  private put(key: string, value: unknown) {
    if (key.startsWith("journal/")) {
      if (value !== null) for (const hearer of this.hearers) hearer(value as Entry);
      return;
    }
    const kind = this.kinds[key.slice(0, key.indexOf("/")) as keyof typeof this.kinds];
    if (!kind) this.values.set(key, value ?? undefined);
    else if (value === null) kind.delete(key);
    else kind.set(key, value);
  }

  /** Follows topics on behalf of an owner, in place of those it followed before. */
  follow(owner: string, topics: string[]) {
    const before = this.topics.get(owner) ?? [];
    if (before.length === topics.length && before.every((t, i) => t === topics[i])) return;
    this.topics.set(owner, topics);
    if (!this.asked) {
      this.asked = true;
      queueMicrotask(() => {
        this.asked = false;
        this.ask();
      });
    }
  }

  /** Sends an edge of a control; false when there is no connection to send it on. */
  touch(controller: string, control: string, touch: Touch, via: "panel" | "patch" | "desk", page?: string): boolean {
    if (!this.connected) return false;
    this.inputs++;
    this.send({ input: { controller, control, ...touch, via, page, seq: this.inputs } });
    return true;
  }

  /** Asks for what is followed, unless that is what was asked for last: an owner that follows the same anew causes nothing. */
  private ask(fresh = false) {
    const topics = [...new Set([...this.topics.values()].flat())].sort();
    const wanted = topics.join("\n");
    if (!fresh && wanted === this.wanted) return;
    this.wanted = wanted;
    this.send({ topics });
  }

  private send(m: LiveMessage) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(m));
  }

  private take(m: LiveUpdate | LiveError) {
    if (m.type === "error") {
      this.lastError = m.text;
      return;
    }
    if (m.type === "snapshot") {
      const before = [this.values.keys(), ...Object.values(this.kinds).map((kind) => [...kind.keys()])].flat();
      for (const key of before) {
        if (!(key in m.values)) this.put(key, null);
      }
      if (!this.connected) {
        this.connected = true;
        this.epoch++;
      }
    } else if (m.seq !== this.seq + 1) {
      this.ask(true); // something was missed
      return;
    }
    this.seq = m.seq;
    if (m.type === "snapshot") {
      this.late.clear();
      for (const [key, value] of Object.entries(m.values)) this.put(key, value);
    } else this.change(m.values);
  }
}

export const feed = new Feed();
