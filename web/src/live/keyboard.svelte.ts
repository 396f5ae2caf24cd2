import type { Controller } from "../api/client";
import { Carrier, type HandsEvent } from "./carrier.svelte";
import { typing } from "./keys.svelte";

/**
 * The keys of this window as hardware of the controller that it shows, where a link says so: by KeyboardEvent.code, so that the
 * language of the keyboard does not matter (UI Events). Made while a component is.
 */
export class Keyboard {
  /** The window is in front, so that keys are caught. */
  front = $state(document.hasFocus());
  private carrier = $state.raw<Carrier | undefined>();
  /** What is pressed is handed on. */
  readonly on = $derived(this.front && this.carrier?.connected === true);
  private readonly controller: () => Controller | undefined;
  /** By itself, so that an edit of the show, which makes every controller anew, ends no connection: a press would be lost meanwhile. */
  private readonly slug = $derived.by(() => this.controller()?.slug ?? "");
  private readonly link = $derived.by(() => this.controller()?.links.find((l) => l.kind === "keys-here" && !l.off));
  readonly caught = $derived(this.link !== undefined);
  private readonly bound = $derived(new Set(this.link?.bound.map((b) => b.source.split("+").pop() ?? "")));

  constructor(controller: () => Controller | undefined) {
    this.controller = controller;
    $effect(() => {
      const slug = this.slug;
      if (!this.caught || !slug) return;
      const carrier = new Carrier();
      this.carrier = carrier;
      carrier.plug([{ id: "keys", kind: "keys-here", controller: slug }]);
      const stop = new AbortController();
      const on = { signal: stop.signal, capture: true };
      addEventListener("keydown", (e) => this.key(e, "down"), on);
      addEventListener("keyup", (e) => this.key(e, "up"), on);
      addEventListener("focus", () => (this.front = true), on);
      addEventListener("blur", (e) => e.target === window && this.leave(), on);
      return () => {
        stop.abort();
        carrier.end();
        this.carrier = undefined;
      };
    });
  }

  private leave() {
    this.front = false;
    this.carrier?.release("keys");
  }

  private key(e: KeyboardEvent, edge: "down" | "up") {
    if (typing(e) || !e.code) return;
    if (this.bound.has(e.code)) {
      e.preventDefault(); // it is not for the browser
      e.stopPropagation();
    }
    if (e.repeat) return;
    const held = { Ctrl: e.ctrlKey, Alt: e.altKey, Shift: e.shiftKey, Meta: e.metaKey };
    const mods = (Object.keys(held) as (keyof typeof held)[]).filter((m) => held[m]);
    const event: HandsEvent = { source: e.code, edge, mods };
    this.carrier?.events("keys", [event]);
  }
}
