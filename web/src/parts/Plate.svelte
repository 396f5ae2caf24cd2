<script lang="ts">
  import type { Control, Controller, ControllerRow, Face } from "../api/client";
  import type { Touch } from "../live/feed.svelte";
  import Dial from "./Dial.svelte";
  import Padlock from "./Padlock.svelte";
  import Tile from "./Tile.svelte";

  /** A controller as Synaptor draws it. What pointing and keys do is the owner's affair. */
  let {
    controller,
    keySize,
    keyHeight = keySize,
    faceOf,
    selected = "",
    also = [],
    noteOf = () => undefined,
    whyNot = () => "",
    landing = [],
    pressed = [],
    shown,
    mode,
    onkey,
    ontouch,
    ondropfile,
  }: {
    controller: Controller;
    /** The width of a key in CSS pixels. */
    keySize: number;
    /** Keys are square where it is left out. */
    keyHeight?: number;
    faceOf: (control: string) => Face | undefined;
    selected?: string;
    /** Further controls that are selected with it. */
    also?: string[];
    /** What is planned for a control that has nothing to do yet. */
    noteOf?: (control: string) => string | undefined;
    /** Why whoever looks may not use a control; empty: they may. */
    whyNot?: (control: string) => string;
    /** Controls that something is about to land on. */
    landing?: string[];
    pressed?: string[];
    /** What the controller shows now: for what is open on a control that shows something else. */
    shown?: ControllerRow | undefined;
    /** select: a pointer selects and drags; press: it presses, turns and slides. */
    mode: "select" | "press";
    onkey?: (control: Control, e: PointerEvent) => void;
    ontouch?: (control: Control, touch: Touch) => void;
    ondropfile?: (control: Control, files: FileList) => void;
  } = $props();

  const gap = $derived(Math.round(keySize / 12));
  const across = (keys: number) => keys * (keySize + gap);
  const down = (keys: number) => keys * (keyHeight + gap);
  /** Pixels of a drag that make one step of a dial. */
  const detent = 6;

  /** What a tap of a control closes, though its face is about something else. */
  function closes(c: Control): string {
    const open = shown?.open?.[c.id];
    return open && open.mapping !== shown?.controls[c.id] ? `open: ${open.title}` : "";
  }

  /** What a screen reader says of a control after what is seen on it. */
  const words = (c: Control, face: Face | undefined) =>
    face ? [c.id, face.name, face.words, whyNot(c.id)].filter(Boolean).join(", ") : `${c.id}, empty`;

  /** A ribbon is slid along where that is mapped, else swiped. */
  const swipes = (c: Control) => c.kind === "ribbon" && !faceOf(c.id)?.marks.includes("slide");
  const slides = (c: Control) => c.kind === "slider" || (c.kind === "ribbon" && !swipes(c));
  /** Whether it makes a difference for how long a dial is held down. */
  const rests = (c: Control) =>
    !faceOf(c.id)?.marks.every((m) => ["turn", "turn-left", "turn-right", "double", "standing"].includes(m));
  /** How far, in pixels, a finger goes along a ribbon for a swipe. */
  const swipe = 40;
  /** share is where the cap of a slider was when it was grabbed. */
  let dragged = { id: "", x: 0, y: 0, moved: false, share: 0 };

  /** A hand on a screen grabs the cap where it is and takes it along, so that no level jumps. */
  function share(e: PointerEvent): number {
    const box = (e.currentTarget as HTMLElement).getBoundingClientRect();
    const way =
      box.width > box.height
        ? (e.clientX - dragged.x) / (box.width * 0.7)
        : (dragged.y - e.clientY) / (box.height * 0.7);
    return Math.min(1, Math.max(0, dragged.share + way));
  }

  function grab(c: Control, e: PointerEvent) {
    if (e.button !== 0) return;
    if (mode === "select") {
      onkey?.(c, e);
      return;
    }
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
    if (slides(c) || swipes(c)) {
      dragged = { id: c.id, x: e.clientX, y: e.clientY, moved: false, share: faceOf(c.id)?.dial?.share ?? 0 };
      return;
    }
    // A dial that is not turned at once is pushed, and turning it then is a push-turn; where nothing but a push
    // and a turn is mapped, it is pushed when it is let go, however long a hand rests on it before it turns.
    dragged = { id: c.id, x: e.clientX, y: e.clientY, moved: false, share: 0 };
    clearTimeout(rest);
    if (c.kind !== "dial") ontouch?.(c, { edge: "down" });
    else if (rests(c)) rest = setTimeout(() => push(c), 250);
  }

  let rest: ReturnType<typeof setTimeout> | undefined;
  let pushed = "";

  function push(c: Control) {
    pushed = c.id;
    ontouch?.(c, { edge: "down" });
  }

  function move(c: Control, e: PointerEvent) {
    if (mode !== "press" || dragged.id !== c.id) return;
    if (swipes(c)) {
      const far = c.width < c.height ? dragged.y - e.clientY : e.clientX - dragged.x;
      if (dragged.moved || Math.abs(far) < swipe) return;
      dragged.moved = true; // one swipe a touch
      ontouch?.(c, { edge: "swipe", amount: far > 0 ? 1 : -1 });
    } else if (slides(c)) {
      if (!dragged.moved) ontouch?.(c, { edge: "slide", amount: dragged.share }); // there they meet
      dragged.moved = true;
      ontouch?.(c, { edge: "slide", amount: share(e) });
    } else if (c.kind === "dial") {
      const steps = Math.trunc((e.clientX - dragged.x + (dragged.y - e.clientY)) / detent);
      if (steps === 0) return;
      clearTimeout(rest);
      dragged = { id: c.id, x: e.clientX, y: e.clientY, moved: true, share: 0 };
      ontouch?.(c, { edge: "turn", amount: steps });
    }
  }

  /** Off the control, nothing may come of the touch any more. */
  function off(e: PointerEvent): boolean {
    const box = (e.currentTarget as HTMLElement).getBoundingClientRect();
    return e.clientX < box.left || e.clientX > box.right || e.clientY < box.top || e.clientY > box.bottom;
  }

  function up(c: Control, e: PointerEvent) {
    if (mode !== "press" || dragged.id !== c.id) return;
    clearTimeout(rest);
    if (c.kind === "dial" && !dragged.moved && pushed !== c.id) push(c);
    dragged = { id: "", x: 0, y: 0, moved: false, share: 0 };
    const cancelled = c.kind !== "dial" && (e.type === "pointercancel" || off(e));
    if (c.kind === "dial" ? pushed === c.id : !slides(c) && !swipes(c))
      ontouch?.(c, { edge: cancelled ? "cancel" : "up" });
    pushed = "";
  }

  function wheel(c: Control, e: WheelEvent) {
    if (mode !== "press" || c.kind !== "dial") return;
    e.preventDefault();
    ontouch?.(c, { edge: "turn", amount: e.deltaY < 0 ? 1 : -1 });
  }

  function keyEdge(c: Control, e: KeyboardEvent, edge: "down" | "up") {
    if (mode !== "press") return;
    const step = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
    if (step && c.kind === "dial") {
      if (edge === "down") ontouch?.(c, { edge: "turn", amount: step });
    } else if (step && swipes(c)) {
      if (edge === "down" && !e.repeat) ontouch?.(c, { edge: "swipe", amount: step });
    } else if (step && slides(c)) {
      const now = faceOf(c.id)?.dial?.share ?? 0;
      if (edge === "down") ontouch?.(c, { edge: "slide", amount: Math.min(1, Math.max(0, now + step / 50)) });
    } else if ((e.key === " " || e.key === "Enter") && !slides(c) && !swipes(c)) {
      if (!e.repeat) ontouch?.(c, { edge });
    } else return;
    e.preventDefault();
  }
</script>

<div
  class="plate"
  role="group"
  aria-label={controller.name}
  style:width="{across(controller.width) - gap}px"
  style:height="{down(controller.height) - gap}px"
>
  {#each controller.controls as c, i (c.id)}
    {@const face = faceOf(c.id)}
    <button
      class="key {c.kind}"
      class:selected={selected === c.id}
      class:also={also.includes(c.id)}
      class:landing={landing.includes(c.id)}
      class:mapped={!!face}
      style:left="{across(c.x)}px"
      style:top="{down(c.y)}px"
      style:width="{across(c.width) - gap}px"
      style:height="{down(c.height) - gap}px"
      data-controller={controller.slug}
      data-control={c.id}
      tabindex={mode === "press" || selected === c.id || (!selected && i === 0) ? 0 : -1}
      aria-pressed={mode === "select" ? selected === c.id || also.includes(c.id) : undefined}
      title={face ? `${c.id} · ${face.name}${face.refusal ? " · " + face.refusal : ""}` : c.id}
      onpointerdown={(e) => grab(c, e)}
      onpointermove={(e) => move(c, e)}
      onpointerup={(e) => up(c, e)}
      onpointercancel={(e) => up(c, e)}
      onwheel={(e) => wheel(c, e)}
      onkeydown={(e) => keyEdge(c, e, "down")}
      onkeyup={(e) => keyEdge(c, e, "up")}
      ondragover={(e) => ondropfile && e.preventDefault()}
      ondrop={(e) => {
        if (!ondropfile || !e.dataTransfer?.files.length) return;
        e.preventDefault();
        ondropfile(c, e.dataTransfer.files);
      }}
      oncontextmenu={(e) => mode === "press" && e.preventDefault()}
    >
      {#if c.kind === "dial" || c.kind === "slider" || c.kind === "ribbon"}
        <span class:dim={face && whyNot(c.id)}><Dial {face} kind={c.kind} pressed={pressed.includes(c.id)} /></span>
      {:else if face}
        <Tile {face} pressed={pressed.includes(c.id)} barred={!!whyNot(c.id)} />
      {/if}
      {#if face && !face.refusal && whyNot(c.id)}<Padlock />{/if}
      {#if !face && noteOf(c.id)}
        <span class="note">{noteOf(c.id)}</span>
      {:else if !face}
        <svg viewBox="0 0 20 20" class="cross" aria-hidden="true"><path d="M10 5v10M5 10h10" /></svg>
      {/if}
      {#if c.kind === "pedal"}<i class="foot" class:down={pressed.includes(c.id)}></i>{/if}
      {#if face && face.marks.length > 0 && mode === "select"}
        <span class="marks cut">{face.marks.filter((m) => m !== "turn" && m !== "slide").join(" · ")}</span>
      {/if}
      {#if closes(c)}<span class="open" style:font-size="{Math.max(8, keySize * 0.085)}px">{closes(c)}</span>{/if}
      <span class="visually-hidden">{words(c, face)}</span>
      {#if face?.guard}
        <span class="guard {face.guard}" style:--ms="{face.guardMs ?? 0}ms"></span>
      {/if}
    </button>
  {/each}
</div>

<style>
  .plate {
    position: relative;
  }
  .key {
    position: absolute;
    contain: layout style;
    border: 0;
    padding: 0;
    background: none;
    border-radius: 6px;
    cursor: pointer;
    touch-action: none;
    -webkit-tap-highlight-color: transparent;
  }
  .dial {
    border-radius: 50%;
  }
  .dim {
    opacity: 0.4;
  }
  .key:focus-visible {
    outline-offset: 2px;
  }
  .selected {
    outline: 3px solid var(--select);
    outline-offset: 2px;
  }
  .also {
    outline: 2px dashed var(--select);
    outline-offset: 2px;
  }
  .note {
    position: absolute;
    inset: 4px;
    border: 1px dashed #6b7580;
    border-radius: 4px;
    padding: 3px 4px;
    font: 400 11px/1.2 var(--condensed);
    color: #c3cad1;
    text-align: left;
    overflow: hidden;
    overflow-wrap: anywhere;
  }
  .landing::after {
    content: "";
    position: absolute;
    inset: 0;
    border-radius: inherit;
    border: 3px dashed var(--select);
    background: color-mix(in srgb, var(--select) 22%, transparent);
  }
  .landing.mapped::after {
    border-style: double;
  }
  .cross {
    position: absolute;
    left: calc(50% - 10px);
    top: calc(50% - 10px);
    width: 20px;
    height: 20px;
  }
  .cross path {
    stroke: #4b535c;
    stroke-width: 1.2;
  }
  .foot {
    position: absolute;
    inset: auto 12% 4px;
    height: 6px;
    background: var(--edge);
  }
  .foot.down {
    background: #fff;
  }
  .marks {
    position: absolute;
    left: 8%;
    right: 2px;
    bottom: 1px;
    font: 600 10px/1.2 var(--condensed);
    color: #d3d9df;
    text-align: left;
    text-shadow: 0 0 3px #000;
  }
  .pedal .marks {
    bottom: 12px;
  }
  .open {
    position: absolute;
    inset: 0 0 auto;
    padding: 2px 4px;
    border-radius: 6px 6px 0 0;
    background: var(--armed);
    color: #000;
    font-family: var(--condensed);
    font-weight: 600;
    line-height: 1.15;
    text-align: left;
    overflow: hidden;
    max-height: 2.5em;
  }
  .guard {
    position: absolute;
    inset: 0;
    border-radius: inherit;
    overflow: hidden;
    border: 3px solid #fff;
  }
  .guard::after {
    content: "";
    position: absolute;
    inset: auto 0 0;
    height: 7px;
    background: #fff;
    transform-origin: left;
    animation: fill var(--ms) linear forwards;
  }
  .guard.armed::after {
    animation-direction: reverse;
  }
  @keyframes fill {
    from {
      transform: scaleX(0);
    }
  }
</style>
