<script lang="ts">
  import None from "./form/None.svelte";
  import Popover from "./Popover.svelte";
  import { api, type EditRow } from "../api/client";
  import { Answer } from "../live/answer.svelte";
  import { ago, clock } from "../live/words.svelte";
  import { show } from "../live/show.svelte";

  let { onclose }: { onclose: () => void } = $props();

  const answer = new Answer<EditRow[]>();

  $effect(() => {
    void show.doc;
    void answer.ask("edits", () => api.GET("/api/v1/edits"));
  });
</script>

<Popover title="What was edited" {onclose}>
  <ol>
    {#each answer.of("edits") ?? [] as r (r.seq)}
      <li class={r.state}>
        <span>{r.name}</span>
        <small>{r.state === "undone" ? "undone · " : ""}{r.mine ? "you" : r.by} · {ago(r.at, clock.now)} ago</small>
      </li>
    {:else}
      <li class="none"><None waits={answer.waits("edits")} problem={answer.problem("edits")}>Nothing yet.</None></li>
    {/each}
  </ol>
  <p>Ctrl+Z takes back your own last edit; Ctrl+Shift+Z does it again.</p>
</Popover>

<style>
  ol {
    overflow: auto;
    min-height: 0;
  }
  li {
    padding: 0.35rem 0;
    border-top: 1px solid var(--raster);
  }
  .undone span {
    text-decoration: line-through;
    color: var(--quiet);
  }
  small {
    display: block;
    color: var(--quiet);
  }
  p {
    margin-top: 0.6rem;
    color: var(--quiet);
    font-size: 0.75rem;
  }
</style>
