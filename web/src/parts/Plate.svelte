<script lang="ts">
  import type { Control, Controller, Face } from "../api/client";
  import Tile from "./Tile.svelte";

  /** A controller as Synaptor draws it. What pointing and keys do is the owner's affair. */
  let {
    controller,
    keySize,
    faceOf,
    pageNames = [],
    page = "",
    selected = "",
    landing = [],
    pressed = [],
    mode,
    onkey,
    onedge,
    onpage,
  }: {
    controller: Controller;
    keySize: number;
    faceOf: (control: string) => Face | undefined;
    pageNames?: { id: string; name: string }[];
    page?: string;
    selected?: string;
    /** Controls that something is about to land on. */
    landing?: string[];
    pressed?: string[];
    /** select: a pointer selects and drags; press: it presses. */
    mode: "select" | "press";
    onkey?: (control: Control, e: PointerEvent) => void;
    onedge?: (control: Control, edge: "down" | "up") => void;
    onpage?: (id: string) => void;
  } = $props();

  const gap = $derived(Math.round(keySize / 12));

  function words(c: Control, face: Face | undefined): string {
    if (!face) return `${c.id}, empty`;
    return [c.id, face.name, face.words, face.refusal].filter(Boolean).join(", ");
  }

  function down(c: Control, e: PointerEvent) {
    if (e.button !== 0) return;
    if (mode === "select") {
      onkey?.(c, e);
      return;
    }
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
    onedge?.(c, "down");
  }

  function keyEdge(c: Control, e: KeyboardEvent, edge: "down" | "up") {
    if (mode !== "press" || (e.key !== " " && e.key !== "Enter") || e.repeat) return;
    e.preventDefault();
    onedge?.(c, edge);
  }
</script>

<section class="plate" class:bare={pageNames.length === 0 && mode === "press"} aria-label={controller.name}>
  {#if pageNames.length > 0}
    <header>
      <span class="name" title={controller.name}>{controller.name}</span>
      <span class="tabs" role="tablist" aria-label="Pages">
        {#each pageNames as p (p.id)}
          <button role="tab" aria-selected={p.id === page} onclick={() => onpage?.(p.id)}>{p.name}</button>
        {/each}
      </span>
    </header>
  {/if}
  <div
    class="grid"
    style:gap="{gap}px"
    style:grid-template-columns="repeat({controller.columns}, {keySize}px)"
    style:grid-auto-rows="{keySize}px"
  >
    {#each controller.controls as c (c.id)}
      {@const face = faceOf(c.id)}
      <button
        class="key"
        class:selected={selected === c.id}
        class:landing={landing.includes(c.id)}
        class:mapped={!!face}
        data-control={c.id}
        tabindex={mode === "press" || selected === c.id || (!selected && c.id === "a1") ? 0 : -1}
        aria-pressed={mode === "select" ? selected === c.id : undefined}
        aria-label={words(c, face)}
        title={face ? `${c.id} · ${face.name}${face.refusal ? " · " + face.refusal : ""}` : c.id}
        onpointerdown={(e) => down(c, e)}
        onpointerup={() => mode === "press" && onedge?.(c, "up")}
        onpointercancel={() => mode === "press" && onedge?.(c, "up")}
        onkeydown={(e) => keyEdge(c, e, "down")}
        onkeyup={(e) => keyEdge(c, e, "up")}
        oncontextmenu={(e) => mode === "press" && e.preventDefault()}
      >
        {#if face}
          <Tile {face} pressed={pressed.includes(c.id)} />
        {:else}
          <svg viewBox="0 0 20 20" class="cross" aria-hidden="true"><path d="M10 5v10M5 10h10" /></svg>
        {/if}
      </button>
    {/each}
  </div>
</section>

<style>
  .plate {
    display: inline-block;
    background: var(--plate);
    border: 1px solid var(--line);
    border-radius: 10px;
    padding: 0 14px 14px;
  }
  .bare {
    padding: 6px;
  }
  header {
    display: flex;
    align-items: center;
    gap: 1rem;
    height: 38px;
    margin-bottom: 10px;
    font-size: 0.8125rem;
  }
  .name {
    color: var(--quiet);
    max-width: 16rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .tabs {
    display: flex;
    overflow: hidden;
  }
  .tabs button {
    background: none;
    border: 0;
    border-bottom: 2px solid transparent;
    color: var(--quiet);
    font: inherit;
    padding: 0.4rem 0.7rem;
    cursor: pointer;
    max-width: 12rem;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .tabs button[aria-selected="true"] {
    color: var(--text);
    border-color: var(--text);
  }
  .grid {
    display: grid;
  }
  .key {
    position: relative;
    border: 0;
    padding: 0;
    background: none;
    border-radius: 6px;
    cursor: pointer;
    touch-action: none;
    -webkit-tap-highlight-color: transparent;
  }
  .key:focus-visible {
    outline-offset: 2px;
  }
  .selected {
    outline: 3px solid var(--select);
    outline-offset: 2px;
  }
  .landing::after {
    content: "";
    position: absolute;
    inset: 0;
    border-radius: 6px;
    border: 3px dashed var(--select);
    background: color-mix(in srgb, var(--select) 22%, transparent);
  }
  .landing.mapped::after {
    border-style: double;
  }
  .cross {
    width: 20px;
    height: 20px;
  }
  .cross path {
    stroke: #4b535c;
    stroke-width: 1.2;
  }
</style>
