<script lang="ts">
  import { api, type Entry } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { route } from "../../live/route.svelte";
  import { ms } from "../../live/words.svelte";

  /** What has led to an entry and what it has set off, from the first cause on. Nothing where it stands alone. */
  let { entry }: { entry: Entry } = $props();

  const answer = new Answer<Entry[]>();
  $effect(() => {
    const params = { path: { id: entry.id } };
    void entry.outcome;
    void answer.ask(entry.id, () => api.GET("/api/v1/journal/{id}/chain", { params }));
  });
  const list = $derived(answer.of(entry.id) ?? []);
  const depth = $derived.by(() => {
    const by = new Map(list.map((e) => [e.id, e]));
    return (e: Entry) => {
      let n = 0;
      for (let c = by.get(e.cause ?? ""); c && n < 8; c = by.get(c.cause ?? "")) n++;
      return n;
    };
  });
  const first = $derived(list[0]);
  const after = (e: Entry) => (Date.parse(e.at) - Date.parse(first?.at ?? e.at)) * 1000;
</script>

{#if list.length > 1}
  <section data-help="journal/what-led-to-it">
    <h3>What led to it, and to what</h3>
    <ol>
      {#each list as e (e.id)}
        <li style:padding-left="{depth(e) * 1.1}rem" data-chain={e.id}>
          <a
            href="/journal/{e.id}"
            aria-current={e.id === entry.id ? "true" : undefined}
            onclick={(ev) => {
              ev.preventDefault();
              route.go(`/journal/${e.id}`);
            }}>{e.title || `${e.control} ${e.gesture}`}</a
          >
          <span class="quiet">{e.controllerName} {e.control}, {e.outcome}, +{ms(after(e))}</span>
        </li>
      {/each}
    </ol>
  </section>
{/if}

<style>
  section {
    padding: 0 1.25rem 1rem;
  }
  h3 {
    font-size: 0.8125rem;
    margin-bottom: 0.3rem;
  }
  li {
    border-top: 1px solid var(--line);
    padding: 0.25rem 0;
  }
  a {
    color: var(--text);
    font-weight: 600;
  }
  a[aria-current] {
    color: var(--select);
  }
</style>
