<script lang="ts">
  import type { Controller } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import type { Link } from "../../live/hardware.svelte";

  /** Which control of a board is which, where it is not the one of its own name. */
  let {
    controller,
    link,
    last,
    onmap,
  }: {
    controller: Controller;
    link: Link;
    /** The control of the board that was touched last: it is mapped next, unless another one was written. */
    last: string;
    onmap: (map: Record<string, string>) => unknown;
  } = $props();

  let from = $state("");
  const map = $derived(link.map ?? {});
  const choices = $derived([
    { value: "", text: "nothing" },
    ...controller.controls.map((c) => ({ value: c.id, text: c.id })),
  ]);
</script>

{#each Object.entries(map) as [control, to] (control)}
  <div class="map">
    <span class="mono">{control} is</span>
    <Choice label="{control} is" hideLabel value={to} {choices} onchange={(v) => onmap({ ...map, [control]: v })} />
    <Act onclick={() => onmap(Object.fromEntries(Object.entries(map).filter(([k]) => k !== control)))}>Its own name</Act
    >
  </div>
{/each}
<div class="map">
  <span>Its control</span>
  <Text label="Control of the hardware" hideLabel value={from || last} onchange={(v) => (from = v)} />
  <Choice
    label="It is"
    hideLabel
    data-map={link.match}
    value="-"
    choices={[{ value: "-", text: "is its own name" }, ...choices]}
    onchange={(to) => {
      const control = from || last;
      if (control && to !== "-") onmap({ ...map, [control]: to });
      from = "";
      return false;
    }}
  />
</div>

<style>
  .map {
    display: flex;
    gap: 0.6rem;
    align-items: center;
    flex-wrap: wrap;
  }
</style>
