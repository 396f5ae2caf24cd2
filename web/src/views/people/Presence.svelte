<script lang="ts">
  import { api, type Who } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { onWhat, type People } from "../../live/people.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** Where somebody is signed in, and what they touch there. */
  let { people, who }: { people: People; who: Who } = $props();

  const sessions = $derived(people.doc?.sessions.filter((s) => s.person === who.id) ?? []);
  const visits = (session: string) => people.doc?.here.filter((h) => h.session === session) ?? [];
  const touched = (session: string) =>
    visits(session)
      .flatMap((v) => v.touched ?? [])
      .sort((a, b) => b.at.localeCompare(a.at))[0];
  const named = (id: string) => show.doc?.controllers.find((c) => c.id === id)?.name ?? "a controller";

  async function end(id: string) {
    said(await api.DELETE("/api/v1/sessions/{id}", { params: { path: { id } } }));
    await people.load();
  }
</script>

{#each sessions as s (s.id)}
  {@const t = touched(s.id)}
  <p class="quiet">
    {visits(s.id).length > 0 ? "Here now" : `Seen ${ago(s.seen, clock.now)} ago`}, {onWhat(s.agent)} at
    <span class="mono">{s.address}</span>{#if t}; touched {t.control} of {named(t.controller)}
      {ago(t.at, clock.now)} ago{/if}
    <Act quiet onclick={() => end(s.id)}>End</Act>
  </p>
{:else}<p class="quiet">{who.panel ? "Not paired" : "Not signed in"}</p>{/each}
