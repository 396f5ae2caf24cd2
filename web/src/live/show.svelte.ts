import {
  api,
  type Controller,
  type ControllerRow,
  type Face,
  type LinkState,
  type Mapping,
  type Page,
  type Problem,
  type Show,
} from "../api/client";
import { feed } from "./feed.svelte";
import { shared } from "./shared";

/** The show as it is stored, loaded again whenever it changes. */
class ShowStore {
  doc = $state.raw<Show | undefined>(undefined);
  problem = $state("");
  private readonly mappings = $derived(new Map((this.doc?.mappings ?? []).map((m) => [m.id, m])));
  private readonly pages = $derived(new Map((this.doc?.pages ?? []).map((p) => [p.id, p])));
  private loading: Promise<void> | undefined;
  private again = false;

  /** Loads the show; calls that come while it loads are served by one more. What was so when it was called is known after. */
  load(): Promise<void> {
    if (this.loading) this.again = true;
    else
      this.loading = this.read().then(() => {
        this.loading = undefined;
        if (this.again) return this.load();
      });
    return this.loading;
  }

  private async read() {
    do {
      this.again = false;
      const { data, error } = await api.GET("/api/v1/show");
      if (data) this.doc = shared(this.doc, data);
      this.problem = error ? error.detail : "";
    } while (this.again);
  }

  mappingAt(page: string, control: string): Mapping | undefined {
    return this.mappings.get(this.pages.get(page)?.controls[control] ?? "");
  }

  page(id: string): Page | undefined {
    return this.pages.get(id);
  }

  /** What a controller shows now. */
  shown(controller: string): ControllerRow | undefined {
    return feed.values.get(`controller/${controller}`) as ControllerRow | undefined;
  }

  /** The pages of a zone of a controller, in order. */
  pagesOf(c: Controller, zone: string): Page[] {
    const profile = this.shown(c.id)?.profile ?? c.profile;
    return (this.doc?.pages ?? [])
      .filter((p) => p.profile === profile && p.layout === c.layout && p.zone === zone)
      .sort((a, b) => a.position - b.position);
  }

  /** The topics with the faces of pages, and of what stands on every page. */
  faceTopics(pages: string[]): string[] {
    return [...pages.map((p) => `page:${p}`), ...(this.doc?.profiles ?? []).map((p) => `standing:${p.id}`)];
  }

  faceAt(page: string, control: string): Face | undefined {
    const id = this.pages.get(page)?.controls[control];
    return id ? (feed.values.get(`face/${id}`) as Face | undefined) : undefined;
  }

  /** What is planned for a control that has nothing to do yet. */
  noteAt(page: string, control: string): string | undefined {
    return this.pages.get(page)?.notes?.[control];
  }

  link(device: string): LinkState | undefined {
    return feed.values.get(`device/${device}`) as LinkState | undefined;
  }
}

export const show = new ShowStore();

/** What a message offers to do about it. */
interface Offer {
  text: string;
  run: () => unknown;
}

/** Short messages about what was done or refused. */
class Notices {
  list = $state<{ id: number; kind: "done" | "refused"; text: string; offer?: Offer }[]>([]);
  private next = 1;

  add(kind: "done" | "refused", text: string, offer?: Offer) {
    const id = this.next++;
    this.list = [...this.list.slice(-2), { id, kind, text, ...(offer && { offer }) }];
    // What is long stays until it can have been read.
    const least = offer ? 20000 : kind === "done" ? 3500 : 8000;
    setTimeout(() => this.drop(id), Math.max(least, text.length * 60));
  }

  drop(id: number) {
    this.list = this.list.filter((n) => n.id !== id);
  }
}

export const notices = new Notices();

/** Says what a request did, or why it did not; true when it worked. */
export function said(result: { error?: Problem }, done = ""): boolean {
  if (result.error) {
    notices.add("refused", result.error.detail);
    return false;
  }
  if (done) notices.add("done", done);
  return true;
}

/** Takes back this browser's last edit; past is one that is blocked, and is passed over. */
export async function undo(past = 0) {
  const r = await api.POST("/api/v1/undo", { body: past ? { past } : {} });
  const blocked = r.error?.blocked;
  if (r.error && blocked?.past) {
    const run = () => undo(blocked.seq);
    notices.add("refused", r.error.detail, { text: `Leave it, and undo “${blocked.past}”`, run });
  } else if (said(r)) notices.add("done", r.data?.name ? `Undone: ${r.data.name}` : "There is nothing to undo.");
}

/** Does again what was undone last. */
export async function redo() {
  const r = await api.POST("/api/v1/redo");
  if (said(r)) notices.add("done", r.data?.name ? `Done again: ${r.data.name}` : "There is nothing to do again.");
}
