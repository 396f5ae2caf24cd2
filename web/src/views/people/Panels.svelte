<script lang="ts">
  import { api } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import HandOver from "./HandOver.svelte";
  import Narrow from "./Narrow.svelte";
  import Presence from "./Presence.svelte";
  import { roleText, type People } from "../../live/people.svelte";
  import { said } from "../../live/show.svelte";
  import { timeOfDay } from "../../live/words.svelte";

  /** Panels: tablets and phones that a code lets in, without a passphrase. */
  let { people }: { people: People } = $props();

  const panels = $derived(people.doc?.people.filter((p) => p.panel) ?? []);
  let given = $state("");
  const at = (id: string) => ({ params: { path: { id } } });

  async function takeBack(id: string, name: string) {
    said(await api.DELETE("/api/v1/people/{id}/sessions", at(id)), `${name} is taken back.`);
    await people.load();
  }
  async function remove(id: string, name: string) {
    said(await api.DELETE("/api/v1/people/{id}", at(id)), `${name} may not get in any more.`);
    await people.load();
  }
</script>

{#if given}
  <HandOver {people} id={given} onclose={() => (given = "")} />
{:else}
  <p class="quiet">A tablet or a phone that a code lets in, without a passphrase. It presses what is given to it.</p>
  {#each panels as p (p.id)}
    <article data-panel={p.name}>
      <header>
        <strong>{p.name}</strong>
        {roleText(p.role)}{p.until ? `, until ${timeOfDay(p.until).slice(0, 5)}` : ""}
        <Act onclick={() => (given = p.id)}>Pair</Act>
        <Act onclick={() => takeBack(p.id, p.name)}>Take back</Act>
        <Act quiet onclick={() => remove(p.id, p.name)}>Remove</Act>
      </header>
      {#if p.role === "operator"}<Narrow who={p} onset={people.load} />{/if}
      <Presence {people} who={p} />
    </article>
  {:else}<p>No panel is listed yet.</p>{/each}
  <HandOver {people} onmade={(id) => (given = id)} />
{/if}
