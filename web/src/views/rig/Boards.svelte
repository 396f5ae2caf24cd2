<script lang="ts">
  import { api, type Board } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** Hardware that is here and attached to nothing: each can be attached in one step. */
  $effect(() => {
    feed.follow("boards", ["bridges"]);
    return () => feed.follow("boards", []);
  });
  const loose = $derived(
    [...feed.values]
      .filter(([key, value]) => key.startsWith("board/") && !(value as Board).link && (value as Board).here)
      .map(([, value]) => value as Board),
  );
  const controllers = $derived(show.doc?.controllers ?? []);

  async function attach(b: Board, controller: string) {
    const body = { controller, kind: "wire" as const, name: b.name, match: b.serial, map: {}, off: false };
    said(await api.POST("/api/v1/links", { body }), `${b.name || b.serial} is attached.`);
    return false;
  }
  async function add(b: Board) {
    const name = b.name || b.serial;
    said(await api.POST("/api/v1/controllers/board", { body: { serial: b.serial, name } }), `${name} is added.`);
  }
  const layout = (b: Board) => show.doc?.layouts.find((l) => l.type === b.layout)?.title ?? "a layout of its own";
</script>

{#each loose as b (b.serial)}
  <p class="board" data-board={b.serial}>
    <strong>{b.name || b.serial}</strong>
    <span class="quiet">{layout(b)}, by {b.bridge}, here {ago(b.since, clock.now)}, attached to nothing</span>
    {#if b.problem}<span class="wrong">{b.problem}</span>{/if}
    {#if controllers.length > 0}
      <Choice
        label="Attach {b.name || b.serial} to"
        hideLabel
        value=""
        choices={[{ value: "", text: "Attach to …" }, ...controllers.map((c) => ({ value: c.id, text: c.name }))]}
        onchange={(to) => attach(b, to)}
      />
    {/if}
    {#if !b.problem}<Act onclick={() => add(b)}>New controller</Act>{/if}
  </p>
{/each}

<style>
  .board {
    display: flex;
    gap: 0.75rem;
    align-items: center;
    padding: 0.5rem 0;
    border-bottom: 1px solid var(--edge);
  }
  .board > :global(.bx--form-item) {
    max-width: 14rem;
  }
</style>
