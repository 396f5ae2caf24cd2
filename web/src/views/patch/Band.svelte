<script lang="ts">
  import type { Controller } from "../../api/client";
  import { follow } from "./drag.svelte";

  /** A rubber band over the desk: it selects the controls of one controller that it touches. */
  let {
    root,
    controllers,
    onband,
  }: {
    root: HTMLElement | undefined;
    controllers: Controller[];
    onband: (c: Controller | undefined, controls: string[]) => void;
  } = $props();

  let box = $state<{ x: number; y: number; width: number; height: number } | undefined>();

  export function start(e: PointerEvent) {
    const from = { x: e.clientX, y: e.clientY };
    follow(e, {
      move: (m) => {
        box = {
          x: Math.min(from.x, m.clientX),
          y: Math.min(from.y, m.clientY),
          width: Math.abs(m.clientX - from.x),
          height: Math.abs(m.clientY - from.y),
        };
      },
      end: (m) => {
        if (m) touch();
        box = undefined;
      },
    });
  }

  function touch() {
    const b = box;
    if (!b) return;
    const hit = [...(root?.querySelectorAll<HTMLElement>("[data-control]") ?? [])].filter((k) => {
      const r = k.getBoundingClientRect();
      return r.left < b.x + b.width && r.right > b.x && r.top < b.y + b.height && r.bottom > b.y;
    });
    const first = hit[0]?.dataset.controller;
    onband(
      controllers.find((c) => c.slug === first),
      hit.filter((k) => k.dataset.controller === first).map((k) => k.dataset.control ?? ""),
    );
  }
</script>

{#if box}
  <i style:left="{box.x}px" style:top="{box.y}px" style:width="{box.width}px" style:height="{box.height}px"></i>
{/if}

<style>
  i {
    position: fixed;
    z-index: 60;
    border: 1px solid var(--select);
    background: color-mix(in srgb, var(--select) 15%, transparent);
    pointer-events: none;
  }
</style>
