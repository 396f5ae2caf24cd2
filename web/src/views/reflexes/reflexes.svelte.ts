import { SvelteDate } from "svelte/reactivity";
import { api, type Reflex, type ReflexForm, type ReflexOn, type Timeline } from "../../api/client";

/** An event of a device, as its sheet has it. */
export interface SheetEvent {
  id: string;
  title: string;
  fields?: Record<string, string>;
}

export const kinds: { value: ReflexOn["kind"]; text: string; group: string }[] = [
  { value: "device", text: "A device tells of something", group: "Devices" },
  { value: "reading", text: "A reading does something", group: "Devices" },
  { value: "link", text: "A device comes back, or goes", group: "Devices" },
  { value: "schedule", text: "A time comes", group: "Synaptor" },
  { value: "macro", text: "A macro begins or ends", group: "Synaptor" },
  { value: "signal", text: "A signal comes", group: "Synaptor" },
  { value: "gesture", text: "A hand does something", group: "Synaptor" },
  { value: "timecode", text: "Time code passes a point", group: "Synaptor" },
  { value: "panel", text: "A panel is paired, or lost", group: "Synaptor" },
  { value: "start", text: "Synaptor has started", group: "Synaptor" },
  { value: "while", text: "While something is so", group: "Following" },
];

export const edges = {
  reading: [
    { value: "becomes", text: "becomes" },
    { value: "leaves", text: "is not any more" },
    { value: "changes", text: "changes" },
    { value: "rises", text: "rises to" },
    { value: "falls", text: "falls to" },
  ],
  link: [
    { value: "comes", text: "answers again" },
    { value: "goes", text: "does not answer any more" },
  ],
  panel: [
    { value: "comes", text: "is paired" },
    { value: "goes", text: "is lost" },
  ],
  macro: [
    { value: "begins", text: "begins" },
    { value: "ends", text: "has ended" },
    { value: "fails", text: "fails" },
    { value: "halts", text: "is halted" },
  ],
  start: [
    { value: "", text: "however it ended" },
    { value: "clean", text: "after it was ended" },
    { value: "unclean", text: "after it was cut off" },
  ],
};

export const gestures = ["press", "release", "hold", "double", "repeat", "turn", "slide", "talk"];

/** What starts a reflex of a kind, before anything else is said of it. */
export function firstOf(kind: ReflexOn["kind"]): ReflexOn {
  const edge = { reading: "becomes", link: "comes", panel: "comes", macro: "ends", start: "" }[kind as string];
  return {
    kind,
    ...(edge !== undefined && { edge }),
    ...(kind === "gesture" && { gesture: "press" }),
    ...(kind === "schedule" && { at: "" }),
  };
}

/** What is said of a reflex that is there, or of a new one. */
export function draftOf(r: Reflex | undefined, on?: ReflexOn, name = ""): ReflexForm {
  if (!r)
    return { name, on: on ?? firstOf("device"), when: "", unless: "", then: { device: "", action: "", params: {} } };
  const { name: called, on: starts, then } = r;
  return {
    name: called,
    on: starts,
    then: { device: then.device, action: then.action, params: then.params ?? {} },
    ...(r.group && { group: r.group }),
    when: r.when ?? "",
    unless: r.unless ?? "",
    ...(r.whenSentences?.length && { whenSentences: r.whenSentences }),
    ...(r.unlessSentences?.length && { unlessSentences: r.unlessSentences }),
    ...(r.everyMs && { everyMs: r.everyMs }),
    ...(r.per && { per: r.per }),
    ...(r.beyond && { beyond: r.beyond }),
    ...(r.length && { length: r.length }),
    ...(r.off && { off: r.off }),
    ...(r.table && { table: r.table }),
    ...(r.hold && { hold: r.hold }),
  };
}

/** A draft as it is sent: without what its kind has no use for, and without sentences that say nothing yet. */
export function bodyOf(d: ReflexForm): ReflexForm {
  const follows = d.on.kind === "while";
  const { table, hold, everyMs, per, beyond, length, whenSentences, unlessSentences, ...rest } = d;
  const said = (list: ReflexForm["whenSentences"]) => (list ?? []).filter((s) => s.reading);
  return {
    ...rest,
    ...(said(whenSentences).length > 0 && { whenSentences: said(whenSentences) }),
    ...(said(unlessSentences).length > 0 && { unlessSentences: said(unlessSentences) }),
    ...(follows && { hold: hold ?? {} }),
    ...(!follows && table && { table }),
    ...(!follows &&
      everyMs && { everyMs, per: per ?? "", beyond: beyond ?? "", ...(beyond === "queue" && { length: length ?? 1 }) }),
  };
}

/** The last ten minutes, read again a moment after something has happened. */
export class LastMinutes {
  doc = $state.raw<Timeline>({ happened: [], judged: [] });
  readonly until = new SvelteDate();
  private waits = false;

  async load() {
    const { data } = await api.GET("/api/v1/timeline");
    if (data) this.doc = data;
    this.until.setTime(Date.now());
  }

  /** Reads it soon, once for all that happens until then. */
  soon() {
    if (this.waits) return;
    this.waits = true;
    setTimeout(() => {
      this.waits = false;
      void this.load();
    }, 500);
  }
}
