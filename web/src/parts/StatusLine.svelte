<script lang="ts">
  import type { StatusItem } from "../api/client";
  import { ago, clock } from "../live/words.svelte";
  import { feed } from "../live/feed.svelte";

  const items = $derived((feed.values.get("status") as StatusItem[] | undefined) ?? []);
  const down = $derived(items.filter((i) => i.kind === "link"));
  const headlines = $derived(items.filter((i) => i.kind !== "link"));
</script>

<div class="line" role="status" aria-label="Devices">
  {#if !feed.connected}
    <span class="alarm">Synaptor is not connected to this page. Presses do nothing. Trying again …</span>
  {/if}
  {#each down as d (d.device)}
    <span class="alarm" title={d.text}
      >{d.device} away {ago(d.since, clock.now)}<span class="reason"> · {d.text}</span></span
    >
  {/each}
  {#each headlines as h (h.device + h.title)}
    <span class="item" class:unknown={h.quality === "unknown"}>
      <span class="mark {h.kind}"></span>
      <span class="title">{h.title}</span>
      <span class="value">{h.quality === "unknown" ? "?" : h.text}</span>
    </span>
  {:else}
    {#if down.length === 0}<span class="item quiet">No device reports anything yet.</span>{/if}
  {/each}
</div>

<style>
  .line {
    display: flex;
    align-items: stretch;
    background: var(--plate);
    border-bottom: 1px solid var(--line);
    font-size: 0.8125rem;
    overflow: hidden;
    white-space: nowrap;
  }
  .item,
  .alarm {
    display: flex;
    align-items: center;
    gap: 0.5rem;
    padding: 0 1rem;
    border-right: 1px solid var(--line);
  }
  .alarm {
    background: #fff;
    color: #000;
    font-weight: 600;
    gap: 0.3rem;
  }
  .reason {
    font-weight: 400;
  }
  .title {
    color: var(--quiet);
  }
  .value {
    font-family: var(--condensed);
    font-weight: 600;
    font-size: 0.9375rem;
    max-width: 15rem;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .mark {
    width: 12px;
    height: 12px;
  }
  .mark.program-picture {
    background: linear-gradient(transparent 55%, var(--on-air) 55%);
    outline: 1px solid var(--line);
  }
  .mark.preview-picture {
    border: 2px solid var(--preview);
    box-sizing: border-box;
  }
  .unknown .mark {
    filter: grayscale(1);
  }
</style>
