<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { api, type Control, type FindResult, type KitPlan } from "../../api/client";
  import Plate from "../../parts/Plate.svelte";
  import Tile from "../../parts/Tile.svelte";
  import { feed } from "../../live/feed.svelte";
  import { notices, said, show } from "../../live/show.svelte";
  import FindPanel from "./FindPanel.svelte";
  import SignalPath from "./SignalPath.svelte";

  const controller = $derived(show.doc?.controllers[0]);
  let chosenPage = $state("");
  const page = $derived(
    (controller?.pages.includes(chosenPage) ? chosenPage : controller?.inForce || controller?.pages[0]) ?? "",
  );
  const pages = $derived(
    (controller?.pages ?? [])
      .flatMap((id) => show.doc?.pages.find((p) => p.id === id) ?? [])
      .map((p) => ({ id: p.id, name: p.name })),
  );
  let selected = $state("a1");
  let finding = $state(false);
  let pressed = $state<string[]>([]);
  let pathView = $state<SignalPath>();
  let width = $state(1280);
  let height = $state(720);
  const keySize = $derived(
    controller
      ? Math.max(
          56,
          Math.min(
            156,
            Math.floor((width - 60 - (finding ? 380 : 0)) / (controller.columns * 1.085)),
            Math.floor((height - Math.min(340, Math.max(262, (height + 80) * 0.3)) - 84) / (controller.rows * 1.083)),
          ),
        )
      : 88,
  );

  // The thread leaves the selected key at its lower left corner and runs down, between the
  // keys, to the signal path.
  let root = $state<HTMLElement>();
  let thread = $state<{ x: number; from: number; to: number } | undefined>();
  $effect(() => {
    void [selected, keySize, page, width, height, finding, controller];
    const box = root?.getBoundingClientRect();
    const key = root?.querySelector(`[data-control="${selected}"]`)?.getBoundingClientRect();
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
  type Drag = { from: string } | { result: FindResult };
  let drag = $state.raw<Drag | undefined>();
  let pointer = $state({ x: 0, y: 0 });
  let over = $state("");
  let plan = $state.raw<KitPlan | undefined>();
  let planned = 0;

  const landing = $derived(!drag || !over ? [] : plan ? plan.cells : [over]);
  const dragFace = $derived(drag && "from" in drag ? show.faceAt(page, drag.from) : undefined);

  function grab(c: Control, e: PointerEvent) {
    selected = c.id;
    if (show.mappingAt(page, c.id)) start({ from: c.id }, e);
  }

  function start(what: Drag, e: PointerEvent) {
    const origin = { x: e.clientX, y: e.clientY };
    const move = (m: PointerEvent) => {
      if (!drag && Math.hypot(m.clientX - origin.x, m.clientY - origin.y) < 6) return;
      drag = what;
      pointer = { x: m.clientX, y: m.clientY };
      const key = document.elementFromPoint(m.clientX, m.clientY)?.closest<HTMLElement>("[data-control]");
      const at = key?.dataset.control ?? "";
      if (at !== over) {
        over = at;
        void look(what, at, m.altKey);
      }
    };
    const end = (m: PointerEvent) => {
      stop();
      if (drag && over && m.type === "pointerup") void drop(drag, over, m.altKey);
      drag = undefined;
      over = "";
      plan = undefined;
    };
    const escape = (k: KeyboardEvent) => {
      if (k.key !== "Escape") return;
      stop();
      drag = undefined;
      over = "";
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
  async function look(what: Drag, at: string, replace: boolean) {
    const turn = ++planned;
    plan = undefined;
    if (!at || !("result" in what) || what.result.kind !== "kit") return;
    const { data } = await api.POST("/api/v1/pages/{page}/kits/plan", {
      params: { path: { page } },
      body: kitBody(what.result, at, replace),
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

  async function drop(what: Drag, at: string, alt: boolean) {
    selected = at;
    if ("result" in what) {
      await put(what.result, at, alt);
      return;
    }
    if (what.from === at) return;
    said(
      await api.POST("/api/v1/pages/{page}/move", {
        params: { path: { page } },
        body: { from: what.from, to: at, swap: alt },
      }),
    );
  }

  /** Puts what was found on a key; gives the free key that comes next, or undefined when it did not work. */
  async function put(r: FindResult, at: string, replace = false): Promise<string | undefined> {
    if (r.kind === "kit") {
      const { data, error } = await api.POST("/api/v1/pages/{page}/kits", {
        params: { path: { page } },
        body: kitBody(r, at, replace),
      });
      const left = data?.left ? ` ${data.left} did not fit.` : "";
      said({ error }, data ? `${data.title}: ${data.cells.length} keys from ${data.cells[0]}.${left}` : "");
      return data?.next;
    }
    const { data, error } = await api.PUT("/api/v1/pages/{page}/controls/{control}", {
      params: { path: { page, control: at } },
      body: { device: r.device, action: r.id, params: r.params },
    });
    said({ error });
    return data?.next;
  }

  /** Puts a result on the selected key and goes on to the next free one. */
  async function choose(r: FindResult) {
    selected = (await put(r, selected)) || selected;
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
    if (!feed.touch(controller.slug, selected, edge, "patch", page)) {
      if (edge === "down") notices.add("refused", "Not sent: this page is not connected to Synaptor.");
      pressed = [];
      return;
    }
    pressed = edge === "down" ? [...pressed, selected] : pressed.filter((p) => p !== selected);
  }

  async function addController() {
    const layout = show.doc?.layouts[0];
    if (layout) said(await api.POST("/api/v1/controllers", { body: { name: "Producer grid", layout: layout.type } }));
  }

  function select(dx: number, dy: number) {
    const c = controller?.controls.find((c) => c.id === selected);
    const to = controller?.controls.find((o) => c && o.column === c.column + dx && o.row === c.row + dy);
    if (!to) return;
    selected = to.id;
    document.querySelector<HTMLElement>(`[data-control="${to.id}"]`)?.focus();
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
    if (editable(e) || !controller) return;
    const onButton = (e.target as HTMLElement).tagName === "BUTTON" && !(e.target as HTMLElement).dataset.control;
    const arrow = arrows[e.key];
    if (arrow && !onButton) select(...arrow);
    else if (e.key.toLowerCase() === "a") finding = true;
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
      <p>A controller is a set of keys. This one can be drawn here, and pressed on any screen as a panel.</p>
      <Button icon={Add} on:click={addController}>Add a grid of 6 by 4 keys</Button>
    </div>
  {:else}
    <div class="desk">
      <Plate
        {controller}
        {keySize}
        {page}
        {selected}
        {landing}
        {pressed}
        pageNames={pages}
        faceOf={(id) => show.faceAt(page, id)}
        mode="select"
        onkey={grab}
        onpage={(id) => (chosenPage = id)}
      />
      <div class="beside">
        {#if !finding}
          <Button kind="tertiary" size="small" icon={Add} on:click={() => (finding = true)}>What should it do?</Button>
        {/if}
        <a class="panel-link" href="/panel/{controller.slug}" target="_blank" rel="noreferrer">Open as a panel</a>
        <p class="quiet hint">
          Select a key, then press <kbd>A</kbd>. Drag a key to move it; with <kbd>Alt</kbd> the two swap.
        </p>
      </div>
    </div>
    <SignalPath
      bind:this={pathView}
      {controller}
      {page}
      control={selected}
      {pressed}
      ontry={tryEdge}
      onclear={clear}
      onfind={() => (finding = true)}
    />
    {#if thread}
      <i class="thread" style:left="{thread.x}px" style:top="{thread.from}px" style:height="{thread.to - thread.from}px"
      ></i>
    {/if}
    {#if finding}
      <FindPanel
        at={selected}
        onchoose={choose}
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
      >{:else if over && show.mappingAt(page, over) && !("from" in drag && drag.from === over)}<span class="ghost-text"
        >{"from" in drag ? "replaces; Alt swaps" : "replaces what is there"}</span
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
    grid-template-rows: 1fr auto;
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
    padding: 18px 24px 10px;
    align-items: flex-start;
    min-width: 0;
  }
  .beside {
    display: grid;
    gap: 0.9rem;
    justify-items: start;
    max-width: 15rem;
    padding-top: 0.4rem;
    font-size: 0.8125rem;
  }
  .panel-link {
    color: #8fd6e0;
  }
  .hint {
    font-size: 0.8125rem;
    line-height: 1.5;
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
