<script lang="ts">
  import type { Controller } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import { show } from "../../live/show.svelte";

  /** A page in small: what is where, without words. What stands on every page is faint. */
  let { page, zone, controller, cell }: { page: string; zone: string; controller: Controller; cell: number } = $props();

  const controls = $derived(controller.controls.filter((k) => k.zone === zone));
  const left = $derived(Math.min(...controls.map((k) => k.x)));
  const top = $derived(Math.min(...controls.map((k) => k.y)));
  const width = $derived(Math.max(...controls.map((k) => k.x + k.width)) - left);
  const height = $derived(Math.max(...controls.map((k) => k.y + k.height)) - top);
</script>

<span class="picture" style:width="{width * cell}px" style:height="{height * cell}px" aria-hidden="true">
  {#each controls as k (k.id)}
    {@const face = show.faceAt(page, k.id)}
    <i
      class:mapped={!!face}
      class:faint={face?.marks.includes("standing")}
      class:round={k.kind === "dial"}
      style:left="{(k.x - left) * cell}px"
      style:top="{(k.y - top) * cell}px"
      style:width="{k.width * cell - 2}px"
      style:height="{k.height * cell - 2}px"
      style:--role="var(--role-{face?.role || 'other'})"
    >
      {#if face}<Glyph name={face.glyph} size={Math.min(16, cell * 0.6)} />{/if}
    </i>
  {/each}
</span>

<style>
  .picture {
    position: relative;
    display: block;
  }
  i {
    position: absolute;
    display: grid;
    place-items: center;
    border: 1px solid var(--line);
    border-radius: 3px;
    color: color-mix(in srgb, var(--text) 65%, var(--role));
  }
  .mapped {
    background: color-mix(in srgb, var(--role) 22%, var(--ground));
    border-color: transparent;
    border-left: 2px solid var(--role);
  }
  .faint {
    opacity: 0.4;
  }
  .round {
    border-radius: 50%;
  }
</style>
