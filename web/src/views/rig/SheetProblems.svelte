<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api } from "../../api/client";
  import { said, show } from "../../live/show.svelte";

  /** The files of the folder with one's own sheets that were left out: all that is wrong with each, and a way to be rid of it.
      With onshow only that there are some, and a way to see what is wrong with them. */
  let { onshow }: { onshow?: () => void } = $props();

  const all = $derived(show.doc?.sheetProblems ?? []);
  const files = $derived([...new Set(all.map((p) => p.file))]);

  async function remove(file: string) {
    said(
      await api.DELETE("/api/v1/sheets/files/{file}", { params: { path: { file } } }),
      `The file ${file} is removed.`,
    );
  }
</script>

{#each files as file (file)}
  {@const problems = all.filter((p) => p.file === file)}
  <div class="left-out">
    <div class="head">
      <p>
        The sheet <span class="mono">{file}</span> was left out:
        {problems.length === 1 ? "one thing is wrong with it." : `${problems.length} things are wrong with it.`}
      </p>
      {#if onshow}
        <Button size="small" kind="ghost" on:click={onshow}>Show what is wrong</Button>
      {:else}
        <Button size="small" kind="ghost" on:click={() => remove(file)}>Remove the file</Button>
      {/if}
    </div>
    {#if !onshow}
      <ol>
        {#each problems as p (p)}
          <li>
            Line {p.line}{#if p.field}, <span class="mono">{p.field}</span>{/if}: {p.reason}.
          </li>
        {/each}
      </ol>
    {/if}
  </div>
{/each}

<style>
  .left-out {
    border-left: 3px solid var(--finding);
    padding-left: 0.6rem;
    margin-bottom: 0.5rem;
    font-size: 0.8125rem;
    line-height: 1.35;
    overflow-wrap: anywhere;
  }
  .head {
    display: flex;
    align-items: center;
    justify-content: space-between;
    color: var(--finding);
  }
  p,
  li {
    font-size: inherit;
    line-height: inherit;
    margin: 0;
  }
  ol {
    max-height: 12rem;
    overflow: auto;
  }
</style>
