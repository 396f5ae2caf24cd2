import type { Face, StatusItem } from "../api/client";
import { feed } from "./feed.svelte";
import { mine } from "./mine.svelte";
import { show } from "./show.svelte";

/**
 * One controller with the faces of everything it shows or can turn to, for windows that are about it alone.
 * Made while a component is.
 */
export class OneController {
  readonly slug = location.pathname.split("/")[2] ?? "";
  readonly controller = $derived(
    show.doc?.controllers.find((c) => c.slug === this.slug || c.aliases?.includes(this.slug)),
  );
  readonly shown = $derived(this.controller && show.shown(this.controller.id));
  private readonly pages = $derived.by(() => {
    const c = this.controller;
    return c ? c.zones.flatMap((zone) => show.pagesOf(c, zone).map((p) => p.id)) : [];
  });

  /** The devices that what it shows needs and that are away. */
  readonly away = $derived.by(() => {
    const names = new Set(Object.keys(this.shown?.controls ?? {}).flatMap((k) => this.faceOf(k)?.missing ?? []));
    return ((feed.values.get("status") ?? []) as StatusItem[]).filter((i) => i.kind === "link" && names.has(i.device));
  });

  constructor(what: string) {
    feed.start();
    mine.follow();
    $effect(() => feed.follow("one", ["show", "controllers", "status", "rollcall", ...show.faceTopics(this.pages)]));
    $effect(() => {
      void feed.epoch;
      void feed.values.get("show");
      void show.load();
    });
    // What could not be loaded is asked for again.
    $effect(() => {
      if (!show.problem) return;
      const again = setInterval(() => void show.load(), 2000);
      return () => clearInterval(again);
    });
    $effect(() => {
      document.title = `${this.controller?.name ?? what} · Synaptor`;
    });
  }

  faceOf = (control: string) => feed.values.get(`face/${this.shown?.controls[control]}`) as Face | undefined;

  /** Why whoever looks may not use a control; empty: they may. */
  whyNot = (control: string) => mine.whyNot(this.controller?.id ?? "", this.shown?.controls[control]);

  /** Whether the controller is given to whoever looks. */
  readonly given = $derived(mine.has(this.controller?.id ?? ""));

  /** The page of a zone that is asked first. */
  pageOf = (zone: string) => show.page(this.shown?.zones[zone]?.[0] ?? "");
}
