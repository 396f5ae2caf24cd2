<script lang="ts">
  import { api, type Choice, type FaceSpec } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";

  /** Chooses a live picture: of which device, which of its pictures, how many a second. */
  let { chosen, onchoose }: { chosen: FaceSpec["live"]; onchoose: (live: FaceSpec["live"]) => void } = $props();

  let device = $state((() => chosen?.device ?? "")());
  const answer = new Answer<Choice[]>();
  const sources = $derived(answer.of(device) ?? []);
  const devices = $derived(
    (show.doc?.devices ?? []).filter((d) => ["streaming", "switcher", "camera"].includes(d.role)),
  );

  $effect(() => {
    const params = { path: { id: device } };
    if (device) void answer.ask(device, () => api.GET("/api/v1/devices/{id}/pictures", { params }));
  });
</script>

<div class="fields">
  <select
    aria-label="Device of the live picture"
    bind:value={device}
    onchange={() => !device && chosen && onchoose(undefined)}
  >
    <option value="">no live picture</option>
    {#each devices as d (d.id)}<option value={d.id}>{d.name}</option>{/each}
  </select>
  {#if device}
    <select
      aria-label="Picture"
      value={chosen?.device === device ? chosen.source : ""}
      onchange={(e) => onchoose({ device, source: e.currentTarget.value, rate: chosen?.rate })}
    >
      <option value="">choose …</option>
      {#each sources as s (s.value)}<option value={s.value}>{s.name}</option>{/each}
    </select>
  {/if}
  {#if chosen}
    <label
      ><input
        type="number"
        min="1"
        max="25"
        placeholder="5"
        aria-label="Pictures a second"
        value={chosen.rate ?? ""}
        onchange={(e) => onchoose({ ...chosen, rate: e.currentTarget.valueAsNumber || undefined })}
      /> a second</label
    >
  {/if}
</div>

<style>
  div {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem;
    align-items: center;
  }
  select {
    max-width: 11rem;
  }
  input {
    width: 3.5rem;
  }
</style>
