<script lang="ts">
  import { tick, untrack } from "svelte";
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { api, type Control, type Controller, type FindResult, type Layout } from "../../api/client";
  import type { Touch } from "../../live/feed.svelte";
  import Tile from "../../parts/Tile.svelte";
  import { feed } from "../../live/feed.svelte";
  import { single, typing } from "../../live/keys.svelte";
  import { route } from "../../live/route.svelte";
  import { notices, said, show } from "../../live/show.svelte";
  import { point } from "../../parts/point";
  import Band from "./Band.svelte";
  import { Desk, sameSpot, type Spot } from "./desk.svelte";
  import DeskPlate from "./DeskPlate.svelte";
  import DeskTools from "./DeskTools.svelte";
  import { Dragging, type Carried } from "./drag.svelte";
  import * as edits from "./edits";
  import FacePanel from "./FacePanel.svelte";
  import FindPanel from "./FindPanel.svelte";
  import SelectionTools from "./SelectionTools.svelte";
  import SignalPath from "./SignalPath.svelte";

  const desk = new Desk();
  const controller = $derived(desk.controller);
  const selected = $derived(desk.selected);
  const page = $derived(desk.page);

  /** The gesture that is looked at and given something to do. */
  let gestureChosen = $state<{ at: string; gesture: string }>({ at: "", gesture: "" });
  const picked = $derived(gestureChosen.at === `${controller?.slug}/${selected}` ? gestureChosen.gesture : undefined);
  const gesture = $derived(picked ?? desk.mapping?.responses[0]?.gesture ?? "");

  /** What is open at the right. */
  let side = $state<"" | "find" | "face">("");
  const finding = $derived(side === "find");
  let pressed = $state<string[]>([]);
  /** What a key is looked for by; undefined: none is. */
  let sought = $state<string | undefined>();
  let findView = $state<FindPanel>();
  let pathView = $state<SignalPath>();
  let selectionView = $state<SelectionTools>();
  let width = $state(1280);
  let height = $state(720);
  const sideWidth = $derived(side ? 380 : 0);
  /** One controller fills the drawing; empty: all are drawn. */
  let fills = $state("");
  const filled = $derived(
    desk.controllers.length === 1 ? desk.controllers[0] : desk.controllers.find((c) => c.slug === fills),
  );
  const pathHeight = $derived(Math.min(340, Math.max(262, (height + 80) * 0.27)));
  /** The desk is drawn so large that every label can be read, and scrolls. */
  let large = $state(localStorage.getItem("desk") === "large");
  function enlarge() {
    large = !large;
    localStorage.setItem("desk", large ? "large" : "whole");
    fills = "";
  }
  /** How much larger than at its smallest the whole desk is drawn. */
  const scale = $derived(
    Math.max(
      large ? 1.7 : 1,
      Math.min(
        2.6,
        (width - 60 - sideWidth) / Math.max(...desk.controllers.map((c) => c.x + c.width * 65 + 20)),
        (height - pathHeight - 70) / Math.max(...desk.controllers.map((c) => c.y + c.height * 65 + 80)),
      ),
    ),
  );
  const keySize = $derived(
    filled
      ? Math.max(
          56,
          Math.min(
            156,
            Math.floor((width - 90 - sideWidth) / (filled.width * 1.085)),
            Math.floor((height - pathHeight - 116 - (filled.zones.length > 1 ? 56 : 0)) / (filled.height * 1.083)),
          ),
        )
      : Math.floor(60 * scale),
  );

  // The thread leaves the selected key at its lower left corner and runs down, between the
  // keys, to the signal path.
  let root = $state<HTMLElement>();
  let scrolled = $state(0);
  let thread = $state<{ x: number; from: number; to: number } | undefined>();
  $effect(() => {
    void [selected, keySize, page, width, height, side, controller, controller?.x, controller?.y, scrolled, fills];
    const box = root?.getBoundingClientRect();
    const key = root
      ?.querySelector(`[data-controller="${controller?.slug}"][data-control="${selected}"]`)
      ?.getBoundingClientRect();
    const path = root?.querySelector(".path")?.getBoundingClientRect();
    thread =
      box && key && path
        ? {
            x: key.left - box.left - keySize / 24,
            from: key.bottom - box.top - keySize / 3,
            to: path.top - box.top + 22,
          }
        : undefined;
  });

  // Somebody was led to a control of a page.
  $effect(() => {
    const [, , to, on] = route.path.split("/");
    if (!to || !show.doc) return;
    untrack(() => {
      const why = desk.leadTo(decodeURIComponent(to), on);
      route.settle("/patch");
      if (why) notices.add("refused", why);
      else
        void tick().then(() =>
          point(
            root?.querySelector<HTMLElement>(
              `[data-controller="${desk.controller?.slug}"][data-control="${desk.selected}"]`,
            ),
          ),
        );
    });
  });

  // The faces of what is drawn; of every page while a key is looked for.
  const followed = $derived(
    sought === undefined
      ? desk.controllers.flatMap((c) => c.zones.map((zone) => desk.pageOf(c, zone)))
      : (show.doc?.pages ?? []).map((p) => p.id),
  );
  $effect(() => feed.follow("desk", show.faceTopics(followed)));
  $effect(() => () => feed.follow("desk", []));

  const dragging = new Dragging(spotAt, (what, at, e) => void drop(what, at, e));
  const drag = $derived(dragging.carried);
  const dragFace = $derived(drag && "from" in drag ? show.faceAt(drag.from.page, drag.from.control) : undefined);
  let band = $state<Band>();

  /** The control under the pointer. */
  function spotAt(m: PointerEvent): Spot | undefined {
    const key = document.elementFromPoint(m.clientX, m.clientY)?.closest<HTMLElement>("[data-control]");
    const c = desk.controllers.find((o) => o.slug === key?.dataset.controller);
    const k = c?.controls.find((o) => o.id === key?.dataset.control);
    return c && k && { controller: c.slug, page: desk.pageOf(c, k.zone), control: k.id };
  }

  /** A pointer went down on a control: it selects, and drags what is mapped or draws a band from an empty one. */
  function grab(c: Controller, k: Control, e: PointerEvent) {
    if (e.shiftKey) {
      desk.toggle(c, k);
      return;
    }
    const among = desk.controller?.slug === c.slug && desk.also.length > 0 && desk.selection.includes(k.id);
    if (!among) desk.choose(c, k.id);
    const from = { controller: c.slug, page: desk.pageOf(c, k.zone), control: k.id };
    if (show.mappingAt(from.page, k.id))
      dragging.start({ from, controls: among ? desk.selection.filter((id) => id !== k.id) : [] }, e, () =>
        desk.choose(c, k.id),
      );
    else band?.start(e);
  }

  async function drop(what: Carried, at: Spot, e: PointerEvent) {
    const c = desk.controllers.find((o) => o.slug === at.controller);
    if ("result" in what) {
      if (c) desk.choose(c, at.control);
      await edits.put(what.result, at, { gesture: undefined, replace: e.altKey, more: goesOn });
      return;
    }
    if (sameSpot(what.from, at)) return;
    const to = await edits.move(what.from, what.controls, at, {
      swap: e.altKey,
      copy: e.ctrlKey || e.metaKey,
    });
    select(c, to.length > 0 ? to : [at.control]);
  }

  function select(c: Controller | undefined, controls: string[]) {
    if (c)
      desk.chooseAll(
        c,
        controls.flatMap((id) => c.controls.find((k) => k.id === id) ?? []),
      );
  }

  /** Kits that do not fit go on on a new page. */
  let goesOn = $state(false);

  /** Puts a result on the selected key and goes on to the next free one. */
  async function take(r: FindResult) {
    const at = desk.here();
    const next = await edits.put(r, at, { gesture: picked, more: goesOn });
    if (next && controller && sameSpot(at, desk.here())) desk.choose(controller, next);
  }

  // Copied is where mappings were copied from.
  let copied = $state.raw<{ from: Spot; controls: string[] } | undefined>();

  function copy() {
    const controls = desk.selection.filter((id) => show.mappingAt(page, id));
    const first = controls[0];
    if (!first) return;
    copied = { from: { ...desk.here(), control: first }, controls: controls.slice(1) };
    notices.add(
      "done",
      `${controls.length === 1 ? `${first} is` : `${controls.length} keys are`} copied. Ctrl+V puts ${controls.length === 1 ? "it on another key" : "them from the selected key on"}.`,
    );
  }

  async function paste(linked: boolean) {
    if (!copied || sameSpot(copied.from, desk.here())) return;
    if (!show.mappingAt(copied.from.page, copied.from.control)) {
      notices.add("refused", "What was copied is not there any more.");
      return;
    }
    await edits.move(copied.from, copied.controls, desk.here(), linked ? { linked } : { copy: true });
  }

  function tryEdge(edge: "down" | "up") {
    if (!controller) return;
    const held = pressed.includes(selected);
    if (edge === "up" && !held) return;
    if (!feed.touch(controller.slug, selected, { edge }, "patch", page)) {
      if (edge === "down") notices.add("refused", "Not sent: this page is not connected to Synaptor.");
      pressed = [];
      return;
    }
    pressed = edge === "down" ? [...pressed, selected] : pressed.filter((p) => p !== selected);
  }

  /** Turns or slides the selected control, as a hand on it would. */
  function tryAmount(t: Touch) {
    if (controller && !feed.touch(controller.slug, selected, t, "patch", page))
      notices.add("refused", "Not sent: this page is not connected to Synaptor.");
  }

  async function addController(layout: Layout) {
    const names = desk.controllers.map((c) => c.name);
    const base = layout.type === "grid-6x4" && names.length === 0 ? "Producer grid" : layout.title.slice(0, 56);
    let name = base;
    for (let n = 2; names.includes(name); n++) name = `${base} ${n}`;
    if (said(await api.POST("/api/v1/controllers", { body: { name, layout: layout.type } }))) {
      await show.load();
      const made = show.doc?.controllers.find((c) => c.name === name);
      if (made) desk.choose(made, made.controls[0]?.id ?? "");
    }
  }

  const arrows: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };

  /** Ctrl with a key; true when it was one of Patch's. */
  function withCtrl(key: string, shift: boolean): boolean {
    if (key === "c") copy();
    else if (key === "v") void paste(shift);
    else if (key === "d") selectionView?.duplicate();
    else if (key === "a") desk.chooseMapped();
    else return false;
    return true;
  }

  // What closes gives the focus to the selected key, which may have gone on meanwhile.
  let beside = "";
  $effect(() => {
    const was = beside;
    beside = side;
    if (was && !side && controller)
      root
        ?.querySelector<HTMLElement>(`[data-controller="${controller.slug}"][data-control="${desk.selected}"]`)
        ?.focus();
  });

  /** A single key; true when it was one of Patch's. */
  function withLetter(key: string, shift: boolean): boolean {
    if (key === "a") {
      if (side === "find") findView?.again();
      side = "find";
    } else if (key === "e") side = "face";
    else if (key === "f") sought = "";
    else if (key === "n") pathView?.note();
    else if (key === "p") desk.newPage();
    else if (key === "z" && shift) enlarge();
    else if (key === "z") fills = fills ? "" : (controller?.slug ?? "");
    else if (key === "[") desk.turnPage(-1);
    else if (key === "]") desk.turnPage(1);
    else return false;
    return true;
  }

  function onkeydown(e: KeyboardEvent) {
    if (e.defaultPrevented) return;
    const key = e.key.toLowerCase();
    if (e.key === "Escape" && (side || desk.single())) {
      side = "";
      e.preventDefault();
      return;
    }
    if (typing(e) || e.altKey || !controller) return;
    if (e.ctrlKey || e.metaKey) {
      if (withCtrl(key, e.shiftKey)) e.preventDefault();
      return;
    }
    const onButton = (e.target as HTMLElement).tagName === "BUTTON" && !(e.target as HTMLElement).dataset.control;
    const arrow = arrows[e.key];
    if (arrow && !onButton) {
      const id = desk.step(...arrow, e.shiftKey);
      root?.querySelector<HTMLElement>(`[data-controller="${controller.slug}"][data-control="${id}"]`)?.focus();
    } else if (e.key === "Delete" || e.key === "Backspace") void edits.clear(desk.here(), desk.selection);
    else if (e.key === "Enter" && !onButton) {
      if (desk.mapping) pathView?.editLabel();
      else side = "find";
    } else if (e.key === " " && !onButton) {
      if (!e.repeat) tryEdge("down");
    } else if (!single(e) || !withLetter(key, e.shiftKey)) return;
    e.preventDefault();
  }

  function onkeyup(e: KeyboardEvent) {
    if (e.key === " " && pressed.length > 0) tryEdge("up");
  }
</script>

<svelte:window {onkeydown} {onkeyup} onblur={() => pressed.length > 0 && tryEdge("up")} />

<div
  data-help="parts/the-drawing"
  class="patch"
  bind:this={root}
  bind:clientWidth={width}
  bind:clientHeight={height}
  class:aside={!!side}
>
  {#if !controller}
    <div class="empty">
      <h1>No controller yet</h1>
      <p>
        A controller is a set of keys, dials, sliders or pedals. Each can be drawn here, and pressed on any screen as a
        panel.
      </p>
      <p class="layouts">
        {#each show.doc?.layouts ?? [] as l (l.type)}
          <Button
            icon={Add}
            kind={l.type === "grid-6x4" ? "primary" : "tertiary"}
            data-layout={l.type}
            on:click={() => addController(l)}>{l.title}</Button
          >
        {/each}
      </p>
    </div>
  {:else}
    <DeskTools
      {desk}
      {filled}
      bind:sought
      finding={!!side}
      onfind={() => (side = "find")}
      onfill={() => (fills = fills ? "" : controller.slug)}
      {large}
      onenlarge={enlarge}
      onadd={addController}
      ongo={(c, p, k) => {
        desk.goTo(c, p, k);
        if (fills) fills = c.slug;
        sought = undefined;
      }}
    >
      <SelectionTools bind:this={selectionView} {desk} />
    </DeskTools>
    <div class="desk" onscroll={(e) => (scrolled = e.currentTarget.scrollTop + e.currentTarget.scrollLeft)}>
      <div
        class="drawing"
        class:filled={!!filled}
        role="presentation"
        onpointerdown={(e) => {
          if (e.button === 0 && !(e.target as HTMLElement).closest("button, header, form, .zone")) band?.start(e);
        }}
      >
        {#each filled ? [filled] : desk.controllers as c (c.id)}
          <DeskPlate
            controller={c}
            {desk}
            {keySize}
            {scale}
            pageOf={(zone) => desk.pageOf(c, zone)}
            selected={c.id === controller.id ? selected : ""}
            also={c.id === controller.id ? desk.also : []}
            landing={c.slug === dragging.over?.controller ? dragging.landing : []}
            pressed={c.id === controller.id ? pressed : []}
            filled={!!filled}
            onkey={(k, e) => grab(c, k, e)}
            onpage={(zone, id) => desk.draw(c, zone, id)}
            onfill={() => (fills = fills ? "" : c.slug)}
            ondropfile={(k, files) => {
              desk.choose(c, k.id);
              void edits.dropPicture(desk.here(), files);
            }}
          />
        {/each}
      </div>
    </div>
    <SignalPath
      bind:this={pathView}
      {controller}
      {page}
      control={selected}
      {gesture}
      {pressed}
      ontry={tryEdge}
      onamount={tryAmount}
      onclear={() => edits.clear(desk.here(), [selected])}
      onfind={() => (side = "find")}
      onface={() => (side = side === "face" ? "" : "face")}
      ongesture={(g) => (gestureChosen = { at: `${controller.slug}/${selected}`, gesture: g })}
    />
    {#if thread}
      <i class="thread" style:left="{thread.x}px" style:top="{thread.from}px" style:height="{thread.to - thread.from}px"
      ></i>
    {/if}
    {#if side === "find"}
      <FindPanel
        bind:this={findView}
        at={gesture && gesture !== "press" ? `${selected}, ${gesture}` : selected}
        gesture={gesture || (desk.control?.gestures[0] ?? "press")}
        {page}
        planned={show.noteAt(page, selected) ?? ""}
        bind:goesOn
        onchoose={take}
        ondrag={(result, e) => dragging.start({ result }, e)}
        onclose={() => (side = "")}
      />
    {:else if side === "face"}
      <FacePanel {desk} onclose={() => (side = "")} />
    {/if}
  {/if}
</div>

<Band bind:this={band} {root} onband={select} controllers={desk.controllers} />

{#if drag}
  <div class="ghost" style:left="{dragging.pointer.x + 12}px" style:top="{dragging.pointer.y + 12}px">
    {#if dragFace}
      <span class="ghost-tile"><Tile face={dragFace} /></span>
    {:else if "result" in drag}
      <span class="ghost-text">{drag.result.title}</span>
    {/if}
    {#if "from" in drag && drag.controls.length > 0}
      <span class="ghost-text"
        >{drag.controls.length + 1} keys{dragging.off ? `, ${dragging.off} find no place` : ""}; Alt swaps, Ctrl copies</span
      >
    {:else if dragging.kit}<span class="ghost-text"
        >{dragging.kit.cells.length} keys{dragging.kit.left
          ? goesOn
            ? `, ${dragging.kit.left} on a new page`
            : `, ${dragging.kit.left} do not fit`
          : ""}{dragging.kit.occupied.length ? `, ${dragging.kit.occupied.length} replaced` : ""}</span
      >{:else if dragging.over && show.mappingAt(dragging.over.page, dragging.over.control) && !("from" in drag && sameSpot(drag.from, dragging.over))}<span
        class="ghost-text">{"from" in drag ? "replaces; Alt swaps, Ctrl copies" : "replaces what is there"}</span
      >{/if}
  </div>
{/if}

<style>
  .patch {
    user-select: none;
    position: relative;
    min-height: 100%;
    height: 100%;
    display: grid;
    grid-template-rows: auto minmax(15rem, 1fr) auto;
    background: radial-gradient(circle at 1px 1px, var(--raster) 1px, transparent 1.5px) 0 0 / 24px 24px;
  }
  .thread {
    position: absolute;
    width: 2px;
    margin-left: -1px;
    background: var(--select);
    opacity: 0.55;
    pointer-events: none;
    z-index: 5;
  }
  .aside {
    padding-right: 380px;
  }
  .desk {
    display: flex;
    gap: 1.5rem;
    padding: 10px 24px 10px;
    align-items: flex-start;
    min-width: 0;
    min-height: 0;
    overflow: auto;
  }
  .drawing {
    position: relative;
    flex: 1;
    min-height: 100%;
  }
  .drawing.filled {
    flex: none;
  }
  .layouts {
    display: flex;
    flex-wrap: wrap;
    gap: 0.75rem;
  }
  .empty {
    padding: 4rem 3rem;
    max-width: 36rem;
    display: grid;
    gap: 1rem;
    justify-items: start;
    align-content: start;
  }
  .empty h1 {
    font-size: 1.5rem;
  }
  .ghost {
    position: fixed;
    z-index: 70;
    pointer-events: none;
    display: grid;
    gap: 0.3rem;
    justify-items: start;
  }
  .ghost-tile {
    position: relative;
    width: 64px;
    height: 64px;
    opacity: 0.9;
  }
  .ghost-text {
    background: var(--hover);
    border: 1px solid var(--select);
    border-radius: 4px;
    padding: 0.25rem 0.5rem;
    font-size: 0.8125rem;
  }
</style>
