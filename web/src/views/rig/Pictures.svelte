<script lang="ts">
  import type { Choice, Device } from "../../api/client";

  /** The live pictures of a device, a few frames a second, while this is open. */
  let { device, sources }: { device: Device; sources: Choice[] } = $props();

  const rate = 4;
  let turn = $state(0);
  let failed = $state<Record<string, boolean>>({});
  $effect(() => {
    const t = setInterval(() => (turn += 1), 1000 / rate);
    return () => clearInterval(t);
  });
</script>

<div class="pictures">
  {#each sources as s (s.value)}
    <figure>
      <img
        src="/api/v1/pictures/{device.slug}/{s.value}?rate={rate}&turn={turn}"
        alt={s.name}
        class:failed={failed[s.value]}
        onload={() => (failed[s.value] = false)}
        onerror={() => (failed[s.value] = true)}
      />
      <figcaption class="cut">{s.name}{failed[s.value] ? ": no picture" : ""}</figcaption>
    </figure>
  {/each}
</div>

<style>
  .pictures {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0.6rem;
    padding: 0.75rem 1rem;
  }
  img {
    width: 100%;
    aspect-ratio: 16 / 9;
    background: var(--hover);
    display: block;
  }
  .failed {
    visibility: hidden;
  }
  figcaption {
    color: var(--quiet);
  }
</style>
