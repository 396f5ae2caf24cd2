<script lang="ts">
  import type { LinkState, Path } from "../../api/client";
  import Glyph from "../../parts/Glyph.svelte";
  import { feed } from "../../live/feed.svelte";
  import { ms, phases } from "../../live/words.svelte";

  /** The devices that a macro drives, each with its link and how fast it answers. */
  let { drives }: { drives: Path["drives"] } = $props();

  const rows = $derived(
    drives
      .filter((d) => d.device !== "synaptor")
      .map((d) => ({ ...d, phase: (feed.values.get(`device/${d.device}`) as LinkState | undefined)?.phase })),
  );
</script>

{#each rows as d (d.device)}
  <p style:--role="var(--role-{d.role})">
    <Glyph name={d.role} struck={d.phase !== "up"} size={16} />
    <span>{d.name}</span>
    <span class="mono quiet"
      >{d.phase === "up"
        ? d.latency.count
          ? ms(d.latency.medianUs)
          : "not measured"
        : phases[d.phase ?? "down"]}</span
    >
  </p>
{:else}
  <p class="quiet">It drives no device.</p>
{/each}

<style>
  p {
    display: grid;
    grid-template-columns: 24px 1fr auto;
    align-items: center;
    padding: 0.1rem 0;
    color: var(--text);
  }
</style>
