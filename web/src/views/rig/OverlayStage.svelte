<script lang="ts">
  import type { Overlay } from "../../api/client";
  import Choice from "../../parts/form/Choice.svelte";

  /** The picture as a drawing of 16 by 9: overlays are where they will be, and are dragged, or moved with the arrow keys. */
  let {
    list,
    safe,
    value,
    open,
    onopen,
    onput,
  }: {
    list: Overlay[];
    /** How much at each edge may not be seen on every screen, in percent. */
    safe: number;
    value: (id: string, what: string) => unknown;
    open: string;
    onopen: (id: string) => void;
    onput: (o: Overlay, to: { x: number; y: number }) => void;
  } = $props();

  let stage = $state<HTMLElement>();
  let ground = $state("night");
  /** The overlay on its way. */
  let drag = $state<{ id: string; x: number; y: number; dx: number; dy: number; moved: boolean } | undefined>();
  const at = (o: Overlay) => (drag?.id === o.id ? drag : o);
  const within = (n: number, most: number) => Math.round(Math.min(Math.max(n, 0), most) * 2) / 2;
  const point = (e: PointerEvent) => {
    const r = stage!.getBoundingClientRect();
    return { x: ((e.clientX - r.left) / r.width) * 100, y: ((e.clientY - r.top) / r.height) * 100 };
  };
  function down(o: Overlay, e: PointerEvent) {
    if (e.button !== 0) return;
    (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
    const p = point(e);
    drag = { id: o.id, x: o.x, y: o.y, dx: p.x - o.x, dy: p.y - o.y, moved: false };
  }
  function move(o: Overlay, e: PointerEvent) {
    if (drag?.id !== o.id) return;
    const p = point(e);
    const x = within(p.x - drag.dx, 100 - o.width);
    const y = within(p.y - drag.dy, 100 - o.size);
    drag = { ...drag, x, y, moved: drag.moved || x !== o.x || y !== o.y };
  }
  function up(o: Overlay) {
    if (drag?.id === o.id && drag.moved) onput(o, { x: drag.x, y: drag.y });
    else onopen(o.id);
    drag = undefined;
  }
  function key(o: Overlay, e: KeyboardEvent) {
    const step = e.shiftKey ? 5 : 1;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
    if (e.key === "Enter") onopen(o.id);
    if (!by) return;
    e.preventDefault();
    onput(o, { x: within(o.x + by[0]!, 100 - o.width), y: within(o.y + by[1]!, 100 - o.size) });
  }
</script>

<div>
  <div class="stage {ground}" bind:this={stage}>
    <div class="safe" aria-hidden="true" style:inset="{safe}%"></div>
    {#each list as o (o.id)}
      {@const p = at(o)}
      {@const says = o.kind === "picture" ? o.name : String(value(o.id, "text") || o.name)}
      <!-- What is dragged on the drawing. -->
      <button
        class="box {o.align}"
        class:chosen={open === o.id}
        class:on={value(o.id, "shown") === true}
        data-place={o.name}
        data-at="{p.x} {p.y}"
        aria-label="{says}: {o.name}, {p.x} % across, {p.y} % down"
        style:left="{p.x}%"
        style:top="{p.y}%"
        style:width="{o.width}%"
        style:font-size="{o.size}cqh"
        onpointerdown={(e) => down(o, e)}
        onpointermove={(e) => move(o, e)}
        onpointerup={() => up(o)}
        onpointercancel={() => (drag = undefined)}
        onkeydown={(e) => key(o, e)}><span class="cut">{says}</span></button
      >
    {/each}
  </div>
  <Choice
    label="Drawn on"
    value={ground}
    choices={[
      { value: "night", text: "a dark picture" },
      { value: "day", text: "a light picture" },
    ]}
    onchange={(to) => void (ground = to)}
  />
</div>

<style>
  .stage {
    position: relative;
    aspect-ratio: 16 / 9;
    container-type: size;
    overflow: hidden;
    background: linear-gradient(#060a1c, #1a2146);
    margin-bottom: 0.5rem;
  }
  .stage.day {
    background: linear-gradient(#cfe2f5, #f4efe2);
  }
  .safe {
    position: absolute;
    border: 1px dashed #8a94a0;
    pointer-events: none;
  }
  .box {
    position: absolute;
    border: 1px solid #c9d27a;
    background: #0d1016a0;
    color: #fff;
    font-family: var(--condensed);
    line-height: 1.2;
    padding: 0 0.2em;
    text-align: left;
    touch-action: none;
    cursor: move;
    overflow: hidden;
  }
  .box.middle {
    text-align: center;
  }
  .box.right {
    text-align: right;
  }
  .chosen {
    outline: 3px solid var(--select);
  }
  .box.on {
    background: #0d1016;
  }
  .box span {
    display: block;
  }
</style>
