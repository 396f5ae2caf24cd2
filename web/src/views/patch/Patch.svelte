<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { Touch } from "../../live/feed.svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import {
    api,
    type Control,
    type Controller,
    type FindResult,
    type KitPlan,
    type Layout,
    type Page,
  } from "../../api/client";
  import Tile from "../../parts/Tile.svelte";
  import { feed } from "../../live/feed.svelte";
  import { notices, said, show } from "../../live/show.svelte";
  import DeskPlate from "./DeskPlate.svelte";
  import DeskTools from "./DeskTools.svelte";
  import FindPanel from "./FindPanel.svelte";
  import SignalPath from "./SignalPath.svelte";

  const controllers = $derived(show.doc?.controllers ?? []);
  let chosen = $state("");
  /** The controller that holds the selection. */
  const controller = $derived(controllers.find((c) => c.slug === chosen) ?? controllers[0]);
  let selection = $state("");
  const selected = $derived(
    controller?.controls.some((c) => c.id === selection) ? selection : (controller?.controls[0]?.id ?? ""),
  );
  const control = $derived(controller?.controls.find((c) => c.id === selected));
  /** The pages that are drawn where they are not the ones that are shown. */
  let drawn = $state<Record<string, string>>({});

  function pageOf(c: Controller, zone: string): string {
    const pages = show.pagesOf(c, zone);
    const wanted = [drawn[`${c.id}/${zone}`], show.shown(c.id)?.zones[zone]?.at(-1)];
    return (wanted.map((id) => pages.find((p) => p.id === id)).find(Boolean) ?? pages[0])?.id ?? "";
  }
  const page = $derived(controller && control ? pageOf(controller, control.zone) : "");

  /** The gesture that is looked at and given something to do. */
  let gestureChosen = $state<{ at: string; gesture: string }>({ at: "", gesture: "" });
  const mapping = $derived(show.mappingAt(page, selected));
  const gesture = $derived(
    gestureChosen.at === `${controller?.slug}/${selected}`
      ? gestureChosen.gesture
      : (mapping?.responses[0]?.gesture ?? ""),
  );

  let finding = $state(false);
  let pressed = $state<string[]>([]);
  let pathView = $state<SignalPath>();
  let width = $state(1280);
  let height = $state(720);
  /** One controller fills the drawing; empty: all are drawn. */
  let fills = $state("");
  const filled = $derived(controllers.length === 1 ? controllers[0] : controllers.find((c) => c.slug === fills));
  const pathHeight = $derived(Math.min(340, Math.max(262, (height + 80) * 0.3)));
  /** How much larger than at its smallest the whole desk is drawn. */
  const scale = $derived(
    Math.max(
      1,
      Math.min(
        1.7,
        (width - 60 - (finding ? 380 : 0)) / Math.max(...controllers.map((c) => c.x + c.width * 65 + 20)),
        (height - pathHeight - 70) / Math.max(...controllers.map((c) => c.y + c.height * 65 + 80)),
      ),
    ),
  );
  const keySize = $derived(
    filled
      ? Math.max(
          56,
          Math.min(
            156,
            Math.floor((width - 90 - (finding ? 380 : 0)) / (filled.width * 1.085)),
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
    void [selected, keySize, page, width, height, finding, controller, controller?.x, controller?.y, scrolled, fills];
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

  // A drag is a result of the search, or a mapped key, on its way to a key.
  type Spot = { controller: string; page: string; control: string };
  type Drag = { from: Spot } | { result: FindResult };
  let drag = $state.raw<Drag | undefined>();
  let pointer = $state({ x: 0, y: 0 });
  let over = $state.raw<Spot | undefined>();
  let plan = $state.raw<KitPlan | undefined>();
  let planned = 0;

  const landing = $derived(!drag || !over ? [] : plan ? plan.cells : [over.control]);
  const dragFace = $derived(drag && "from" in drag ? show.faceAt(drag.from.page, drag.from.control) : undefined);
  const sameSpot = (a: Spot | undefined, b: Spot | undefined) => a?.page === b?.page && a?.control === b?.control;

  function choose(c: Controller, control: string) {
    chosen = c.slug;
    selection = control;
  }

  function grab(c: Controller, k: Control, e: PointerEvent) {
    choose(c, k.id);
    const from = { controller: c.slug, page: pageOf(c, k.zone), control: k.id };
    if (show.mappingAt(from.page, k.id)) start({ from }, e);
  }

  /** The control under the pointer. */
  function spotAt(m: PointerEvent): Spot | undefined {
    const key = document.elementFromPoint(m.clientX, m.clientY)?.closest<HTMLElement>("[data-control]");
    const c = controllers.find((o) => o.slug === key?.dataset.controller);
    const k = c?.controls.find((o) => o.id === key?.dataset.control);
    return c && k && { controller: c.slug, page: pageOf(c, k.zone), control: k.id };
  }

  function start(what: Drag, e: PointerEvent) {
    const origin = { x: e.clientX, y: e.clientY };
    const move = (m: PointerEvent) => {
      if (!drag && Math.hypot(m.clientX - origin.x, m.clientY - origin.y) < 6) return;
      drag = what;
      pointer = { x: m.clientX, y: m.clientY };
      const at = spotAt(m);
      if (!sameSpot(at, over)) {
        over = at;
        void look(what, at, m.altKey);
      }
    };
    const end = (m: PointerEvent) => {
      stop();
      if (drag && over && m.type === "pointerup") void drop(drag, over, m);
      reset();
    };
    const escape = (k: KeyboardEvent) => {
      if (k.key !== "Escape") return;
      stop();
      reset();
    };
    const reset = () => {
      drag = undefined;
      over = undefined;
      plan = undefined;
    };
    const stop = () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", end);
      removeEventListener("pointercancel", end);
      removeEventListener("keydown", escape);
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", end);
    addEventListener("pointercancel", end);
    addEventListener("keydown", escape);
  }

  /** Asks where a kit would land, so that it is seen before it is dropped. */
  async function look(what: Drag, at: Spot | undefined, replace: boolean) {
    const turn = ++planned;
    plan = undefined;
    if (!at || !("result" in what) || what.result.kind !== "kit") return;
    const { data } = await api.POST("/api/v1/pages/{page}/kits/plan", {
      params: { path: { page: at.page } },
      body: kitBody(what.result, at.control, replace),
    });
    if (turn === planned && data) plan = data;
  }

  const kitBody = (r: FindResult, at: string, replace: boolean) => ({
    device: r.device,
    kit: r.id,
    params: r.params,
    at,
    replace,
  });

  async function drop(what: Drag, at: Spot, e: PointerEvent) {
    const c = controllers.find((o) => o.slug === at.controller);
    if (c) choose(c, at.control);
    if ("result" in what) {
      await put(what.result, at, e.altKey);
      return;
    }
    if (!sameSpot(what.from, at)) await move(what.from, at, { swap: e.altKey, copy: e.ctrlKey || e.metaKey });
  }

  async function move(from: Spot, to: Spot, how: { swap: boolean; copy: boolean }) {
    const r = await api.POST("/api/v1/pages/{page}/move", {
      params: { path: { page: from.page } },
      body: { from: from.control, to: to.control, page: to.page, ...how },
    });
    const left = r.data?.left ?? [];
    said(r, left.length > 0 ? `${to.control} cannot make the gesture ${left.join(", ")}; it was left out.` : "");
  }

  /** Puts what was found on a key; gives the free key that comes next, or undefined when it did not work. */
  async function put(r: FindResult, at: Spot, replace = false): Promise<string | undefined> {
    if (r.kind === "kit") {
      const { data, error } = await api.POST("/api/v1/pages/{page}/kits", {
        params: { path: { page: at.page } },
        body: kitBody(r, at.control, replace),
      });
      const left = data?.left ? ` ${data.left} did not fit.` : "";
      said({ error }, data ? `${data.title}: ${data.cells.length} keys from ${data.cells[0]}.${left}` : "");
      return data?.next;
    }
    const picked = gestureChosen.at === `${at.controller}/${at.control}` ? gestureChosen.gesture : undefined;
    const { data, error } = await api.PUT("/api/v1/pages/{page}/controls/{control}", {
      params: { path: { page: at.page, control: at.control } },
      body: { device: r.device, action: r.id, params: r.params, gesture: picked },
    });
    said({ error });
    return picked && picked !== "press" ? at.control : data?.next;
  }

  const here = (): Spot => ({ controller: controller?.slug ?? "", page, control: selected });

  /** Puts a result on the selected key and goes on to the next free one. */
  async function take(r: FindResult) {
    const at = here();
    const next = await put(r, at);
    if (next && sameSpot(at, here())) selection = next;
  }

  // Copied is where a mapping was copied from.
  let copied = $state.raw<Spot | undefined>();

  async function paste() {
    if (!copied || sameSpot(copied, here())) return;
    if (!show.mappingAt(copied.page, copied.control)) {
      notices.add("refused", "What was copied is not there any more.");
      return;
    }
    await move(copied, here(), { swap: false, copy: true });
  }

  async function clear() {
    if (!show.mappingAt(page, selected)) return;
    said(
      await api.DELETE("/api/v1/pages/{page}/controls/{control}", { params: { path: { page, control: selected } } }),
      `${selected} is clear. Ctrl+Z brings it back.`,
    );
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

  /** Goes to the nearest control in a direction. */
  function select(dx: number, dy: number) {
    const from = control;
    if (!controller || !from) return;
    const mid = (c: Control) => ({ x: c.x + c.width / 2, y: c.y + c.height / 2 });
    const m = mid(from);
    const near = controller.controls
      .map((c) => ({
        c,
        along: (mid(c).x - m.x) * dx + (mid(c).y - m.y) * dy,
        off: Math.abs((mid(c).x - m.x) * dy) + Math.abs((mid(c).y - m.y) * dx),
      }))
      .filter((o) => o.along > 0.01 && o.off <= o.along)
      .sort((a, b) => a.along + 2 * a.off - b.along - 2 * b.off)[0];
    if (!near) return;
    selection = near.c.id;
    root?.querySelector<HTMLElement>(`[data-controller="${controller.slug}"][data-control="${near.c.id}"]`)?.focus();
  }

  /** What a key is looked for by; undefined: none is. */
  let sought = $state<string | undefined>();

  function goTo(c: Controller, p: Page, k: Control) {
    choose(c, k.id);
    drawn[`${c.id}/${k.zone}`] = p.id;
    if (fills) fills = c.slug;
    sought = undefined;
  }

  async function addController(layout: Layout) {
    const names = controllers.map((c) => c.name);
    const base = layout.type === "grid-6x4" && names.length === 0 ? "Producer grid" : layout.title;
    let name = base;
    for (let n = 2; names.includes(name); n++) name = `${base} ${n}`;
    if (said(await api.POST("/api/v1/controllers", { body: { name, layout: layout.type } }))) {
      await show.load();
      const made = show.doc?.controllers.find((c) => c.name === name);
      if (made) choose(made, made.controls[0]?.id ?? "");
    }
  }

  /** Draws the next page of the selected control's zone. */
  function turnPage(by: number) {
    if (!controller || !control) return;
    const pages = show.pagesOf(controller, control.zone);
    const to = pages[pages.findIndex((p) => p.id === page) + by];
    if (to) drawn[`${controller.id}/${control.zone}`] = to.id;
  }

  const arrows: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };

  function editable(e: KeyboardEvent) {
    const t = e.target as HTMLElement;
    return ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName) || e.ctrlKey || e.metaKey || e.altKey;
  }

  function onkeydown(e: KeyboardEvent) {
    if (e.key === "Escape" && finding) {
      finding = false;
      e.preventDefault();
      return;
    }
    const key = e.key.toLowerCase();
    const typing = ["INPUT", "TEXTAREA", "SELECT"].includes((e.target as HTMLElement).tagName);
    if ((e.ctrlKey || e.metaKey) && !typing && (key === "c" || key === "v")) {
      if (key === "c" && mapping) {
        copied = here();
        notices.add("done", `${selected} is copied. Ctrl+V puts it on another key.`);
      } else if (key === "v") void paste();
      e.preventDefault();
      return;
    }
    if (editable(e) || !controller) return;
    const onButton = (e.target as HTMLElement).tagName === "BUTTON" && !(e.target as HTMLElement).dataset.control;
    const arrow = arrows[e.key];
    if (arrow && !onButton) select(...arrow);
    else if (key === "a") finding = true;
    else if (key === "f") sought = "";
    else if (key === "z") fills = fills ? "" : controller.slug;
    else if (e.key === "[") turnPage(-1);
    else if (e.key === "]") turnPage(1);
    else if (e.key === "Delete" || e.key === "Backspace") void clear();
    else if (e.key === "Enter" && !onButton) {
      if (show.mappingAt(page, selected)) pathView?.editLabel();
      else finding = true;
    } else if (e.key === " " && !onButton) {
      if (!e.repeat) tryEdge("down");
    } else return;
    e.preventDefault();
  }

  function onkeyup(e: KeyboardEvent) {
    if (e.key === " " && pressed.length > 0) tryEdge("up");
  }
</script>

<svelte:window {onkeydown} {onkeyup} onblur={() => pressed.length > 0 && tryEdge("up")} />

<div class="patch" bind:this={root} bind:clientWidth={width} bind:clientHeight={height} class:finding>
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
      {controllers}
      {controller}
      {finding}
      {filled}
      bind:sought
      onfind={() => (finding = true)}
      onfill={() => (fills = fills ? "" : controller.slug)}
      onadd={addController}
      ongo={goTo}
    />
    <div class="desk" onscroll={(e) => (scrolled = e.currentTarget.scrollTop + e.currentTarget.scrollLeft)}>
      <div class="drawing" class:filled={!!filled}>
        {#each filled ? [filled] : controllers as c (c.id)}
          <DeskPlate
            controller={c}
            {keySize}
            {scale}
            pageOf={(zone) => pageOf(c, zone)}
            selected={c.id === controller.id ? selected : ""}
            landing={c.slug === over?.controller ? landing : []}
            pressed={c.id === controller.id ? pressed : []}
            filled={!!filled}
            onkey={(k, e) => grab(c, k, e)}
            onpage={(zone, id) => {
              drawn[`${c.id}/${zone}`] = id;
              const first = c.controls.find((k) => k.zone === zone)?.id ?? "";
              if (c.id !== controller.id || control?.zone !== zone) choose(c, first);
            }}
            onfill={() => (fills = fills ? "" : c.slug)}
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
      onclear={clear}
      onfind={() => (finding = true)}
      ongesture={(g) => (gestureChosen = { at: `${controller.slug}/${selected}`, gesture: g })}
    />
    {#if thread}
      <i class="thread" style:left="{thread.x}px" style:top="{thread.from}px" style:height="{thread.to - thread.from}px"
      ></i>
    {/if}
    {#if finding}
      <FindPanel
        at={gesture && gesture !== "press" ? `${selected}, ${gesture}` : selected}
        gesture={gesture || (control?.gestures[0] ?? "press")}
        onchoose={take}
        ondrag={(result, e) => start({ result }, e)}
        onclose={() => (finding = false)}
      />
    {/if}
  {/if}
</div>

{#if drag}
  <div class="ghost" style:left="{pointer.x + 12}px" style:top="{pointer.y + 12}px">
    {#if dragFace}
      <span class="ghost-tile"><Tile face={dragFace} /></span>
    {:else if "result" in drag}
      <span class="ghost-text">{drag.result.title}</span>
    {/if}
    {#if plan}<span class="ghost-text"
        >{plan.cells.length} keys{plan.left ? `, ${plan.left} do not fit` : ""}{plan.occupied.length
          ? `, ${plan.occupied.length} replaced`
          : ""}</span
      >{:else if over && show.mappingAt(over.page, over.control) && !("from" in drag && sameSpot(drag.from, over))}<span
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
    grid-template-rows: auto 1fr auto;
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
  .finding {
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
    background: #2a2f35;
    border: 1px solid var(--select);
    border-radius: 4px;
    padding: 0.25rem 0.5rem;
    font-size: 0.8125rem;
  }
</style>
