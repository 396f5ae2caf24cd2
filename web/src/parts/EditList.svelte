<script lang="ts">
  import { api, type EditRow } from "../api/client";
  import { ago, clock } from "../live/clock.svelte";
  import { show } from "../live/show.svelte";

  let { onclose }: { onclose: () => void } = $props();

  let rows = $state.raw<EditRow[] | undefined>();
  let problem = $state("");

  $effect(() => {
    void show.doc;
    void load();
  });

  async function load() {
    try {
      const { data, error } = await api.GET("/api/v1/edits");
      rows = data;
      problem = error ? error.detail : "";
    } catch {
      problem = "Synaptor does not answer.";
    }
  }
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && (e.preventDefault(), onclose())} />

<aside class="edits" aria-label="What was edited">
  <header>
    <h2>What was edited</h2>
    <button onclick={onclose}>Close</button>
  </header>
  {#if problem}<p>{problem}</p>{/if}
  <ol>
    {#each rows ?? [] as r (r.seq)}
      <li class={r.state}>
        <span>{r.name}</span>
        <small>{r.state === "undone" ? "undone · " : ""}{r.mine ? "you" : r.by} · {ago(r.at, clock.now)} ago</small>
      </li>
    {:else}
      <li class="none">{rows ? "Nothing yet." : "Loading …"}</li>
    {/each}
  </ol>
  <p>Ctrl+Z takes back your own last edit; Ctrl+Shift+Z does it again.</p>
</aside>

<style>
  .edits {
    position: absolute;
    right: 1rem;
    top: 96px;
    z-index: 50;
    width: 340px;
    max-height: 70vh;
    display: flex;
    flex-direction: column;
    background: #1c2024;
    border: 1px solid var(--line);
    border-radius: 6px;
    padding: 0.9rem 1.1rem;
    box-shadow: 0 8px 40px #000a;
    font-size: 0.8125rem;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    margin-bottom: 0.6rem;
  }
  h2 {
    font-size: 1rem;
  }
  button {
    background: none;
    border: 1px solid var(--line);
    color: inherit;
    padding: 0.2rem 0.6rem;
    border-radius: 4px;
    cursor: pointer;
  }
  ol {
    overflow: auto;
    min-height: 0;
  }
  li {
    padding: 0.35rem 0;
    border-top: 1px solid #2b3138;
    overflow-wrap: anywhere;
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
