<script lang="ts" module>
  import { api } from "../../api/client";

  let names: Promise<string[]> | undefined;
  /** The names of all glyphs, asked for once. */
  const all = () =>
    (names ??= api.GET("/api/v1/glyphs").then(({ data }) => {
      if (!data) names = undefined; // the next one asks again
      return data ?? [];
    }));
</script>

<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Glyph from "../../parts/Glyph.svelte";

  /** Chooses one of the glyphs; an empty one is the action's own. */
  let { chosen, onchoose }: { chosen: string; onchoose: (name: string) => void } = $props();

  let list = $state.raw<string[]>([]);
  let words = $state("");
  void all().then((l) => (list = l));
  const fitting = $derived(list.filter((n) => n.includes(words.trim().toLowerCase())));
</script>

<div class="picker">
  <Text hideLabel label="Look for a glyph" bind:value={words} placeholder="microphone, star, arrow …" />
  <div class="grid" role="group" aria-label="Glyphs">
    <Act aria-pressed={chosen === ""} onclick={() => onchoose("")}>the action's</Act>
    {#each fitting as n (n)}
      <!-- A drawing. -->
      <button aria-pressed={chosen === n} aria-label={n} title={n} data-glyph={n} onclick={() => onchoose(n)}
        ><Glyph name={n} size={20} /></button
      >
    {/each}
  </div>
</div>

<style>
  .picker {
    display: grid;
    gap: 0.4rem;
  }
  .grid {
    display: grid;
    grid-template-columns: repeat(auto-fill, 32px);
    gap: 3px;
    max-height: 170px;
    overflow: auto;
  }
  button {
    width: 32px;
    height: 32px;
    display: grid;
    place-items: center;
    border: 1px solid transparent;
    color: var(--text);
    padding: 0;
  }
  button:hover {
    background: var(--hover);
  }
  button[aria-pressed="true"] {
    border-color: var(--select);
  }
</style>
