<script lang="ts" generics="T extends string">
  import { Tab, Tabs } from "carbon-components-svelte";

  /** The parts of something, one of which is looked at. */
  let {
    parts,
    value = $bindable(),
  }: {
    parts: readonly { id: T; text: string }[];
    value: T;
  } = $props();

  const selected = $derived(
    Math.max(
      0,
      parts.findIndex((p) => p.id === value),
    ),
  );
</script>

<Tabs
  autoWidth
  {selected}
  on:change={(e) => {
    const to = parts[e.detail];
    if (to) value = to.id;
  }}
>
  {#each parts as p (p.id)}<Tab label={p.text} data-part={p.id} />{/each}
</Tabs>
