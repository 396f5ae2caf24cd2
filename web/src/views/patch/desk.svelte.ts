import type { Control, Controller, Page } from "../../api/client";
import { show } from "../../live/show.svelte";

/** A control of a page of a controller. */
export interface Spot {
  controller: string;
  page: string;
  control: string;
}

export const sameSpot = (a: Spot | undefined, b: Spot | undefined) =>
  a?.page === b?.page && a?.control === b?.control && a?.controller === b?.controller;

/** What is drawn and selected in Patch: one control leads, others may go along. */
export class Desk {
  private chosen = $state("");
  private lead = $state("");
  /** Further selected controls, of the same controller and zone as the leading one. */
  private others = $state.raw<string[]>([]);
  /** The pages that are drawn where they are not the ones that are shown. */
  private drawn = $state<Record<string, string>>({});

  /** The page that is being named: a new one of a zone, or an old one. */
  naming = $state<{ controller: string; zone: string; page?: string; name: string } | undefined>();

  readonly controllers = $derived(show.doc?.controllers ?? []);
  readonly controller = $derived(this.controllers.find((c) => c.slug === this.chosen) ?? this.controllers[0]);
  readonly control = $derived(
    this.controller?.controls.find((c) => c.id === this.lead) ?? this.controller?.controls[0],
  );
  readonly selected = $derived(this.control?.id ?? "");
  readonly page = $derived(this.controller && this.control ? this.pageOf(this.controller, this.control.zone) : "");
  readonly mapping = $derived(show.mappingAt(this.page, this.selected));
  readonly also = $derived(
    this.others.filter(
      (id) => id !== this.selected && this.controller?.controls.find((c) => c.id === id)?.zone === this.control?.zone,
    ),
  );
  readonly selection = $derived([this.selected, ...this.also]);

  /** The page of a zone that is drawn. */
  pageOf(c: Controller, zone: string): string {
    const pages = show.pagesOf(c, zone);
    const wanted = [this.drawn[`${c.id}/${zone}`], show.shown(c.id)?.zones[zone]?.at(-1)];
    return (wanted.map((id) => pages.find((p) => p.id === id)).find(Boolean) ?? pages[0])?.id ?? "";
  }

  here = (): Spot => ({ controller: this.controller?.slug ?? "", page: this.page, control: this.selected });

  choose(c: Controller, control: string) {
    this.chosen = c.slug;
    this.lead = control;
    this.others = [];
  }

  /** Adds a control to the selection, or takes it out; one of another controller or zone begins a new one. */
  toggle(c: Controller, k: Control) {
    if (c.slug !== this.controller?.slug || k.zone !== this.control?.zone) this.choose(c, k.id);
    else if (this.also.includes(k.id)) this.others = this.also.filter((id) => id !== k.id);
    else if (k.id !== this.selected) this.others = [...this.also, k.id];
    else if (this.also.length > 0) {
      this.lead = this.also[0] ?? "";
      this.others = this.also.slice(1);
    }
  }

  /** Selects controls of a controller; those of another zone than the first are left out. */
  chooseAll(c: Controller, controls: Control[]) {
    const first = controls[0];
    if (!first) return;
    this.choose(c, first.id);
    this.others = controls.filter((k) => k.zone === first.zone).map((k) => k.id);
  }

  /** Selects everything that is mapped on the drawn page, else every control. */
  chooseMapped() {
    const c = this.controller;
    if (!c) return;
    const own = c.controls.filter((k) => k.zone === this.control?.zone);
    const mapped = own.filter((k) => show.mappingAt(this.page, k.id));
    this.chooseAll(c, mapped.length > 0 ? mapped : own);
  }

  draw(c: Controller, zone: string, page: string) {
    this.drawn[`${c.id}/${zone}`] = page;
    if (c.id !== this.controller?.id || this.control?.zone !== zone)
      this.choose(c, c.controls.find((k) => k.zone === zone)?.id ?? "");
    else this.others = [];
  }

  goTo(c: Controller, p: Page, k: Control) {
    this.choose(c, k.id);
    this.drawn[`${c.id}/${k.zone}`] = p.id;
  }

  /** Goes to a page by its id, and to a control of it; says why it cannot. */
  leadTo(id: string, control = ""): string {
    const p = show.doc?.pages.find((o) => o.id === id);
    if (!p) return "This page does not exist any more.";
    const c = this.controllers.find((o) => show.pagesOf(o, p.zone).some((q) => q.id === id));
    const k = c?.controls.find((o) => o.id === control) ?? c?.controls.find((o) => o.zone === p.zone);
    if (!c || !k) {
      const profile = show.doc?.profiles.find((o) => o.id === p.profile)?.name ?? "";
      return `This is on the page ${p.name} of the profile ${profile}: it is drawn here once that is in force.`;
    }
    this.goTo(c, p, k);
    return "";
  }

  /** Asks for the name of a new page beside the one that is drawn. */
  newPage() {
    if (this.controller && this.control)
      this.naming = { controller: this.controller.id, zone: this.control.zone, name: "" };
  }

  /** Draws the next page of the selected control's zone. */
  turnPage(by: number) {
    if (!this.controller || !this.control) return;
    const pages = show.pagesOf(this.controller, this.control.zone);
    const to = pages[pages.findIndex((p) => p.id === this.page) + by];
    if (to) this.draw(this.controller, this.control.zone, to.id);
  }

  /** Goes to the nearest control in a direction; extending keeps what was selected. */
  step(dx: number, dy: number, extend: boolean): string | undefined {
    const from = this.control;
    if (!this.controller || !from) return;
    const mid = (c: Control) => ({ x: c.x + c.width / 2, y: c.y + c.height / 2 });
    const m = mid(from);
    const near = this.controller.controls
      .map((c) => ({
        c,
        along: (mid(c).x - m.x) * dx + (mid(c).y - m.y) * dy,
        off: Math.abs((mid(c).x - m.x) * dy) + Math.abs((mid(c).y - m.y) * dx),
      }))
      .filter((o) => o.along > 0.01 && o.off <= o.along)
      .sort((a, b) => a.along + 2 * a.off - b.along - 2 * b.off)[0];
    if (!near) return;
    const before = this.selection;
    this.choose(this.controller, near.c.id);
    if (extend) this.others = before;
    return near.c.id;
  }

  /** Clears what goes along; false when nothing does. */
  single(): boolean {
    if (this.also.length === 0) return false;
    this.others = [];
    return true;
  }
}
