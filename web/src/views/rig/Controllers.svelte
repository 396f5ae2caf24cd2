<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import { SvelteMap } from "svelte/reactivity";
  import { api, type Controller, type Entry, type PageMap } from "../../api/client";
  import Choice from "../../parts/form/Choice.svelte";
  import Rows from "../../parts/form/Rows.svelte";
  import { feed } from "../../live/feed.svelte";
  import { hardware } from "../../live/hardware.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** The controllers as rows: what they are, what they show, how many of their keys do something, and what was touched last. */
  let { open, onopen }: { open: string; onopen: (id: string) => void } = $props();

  const controllers = $derived(show.doc?.controllers ?? []);
  /** The last input of each controller, by its slug. */
  const last = new SvelteMap<string, Entry>();

  function heard(e: Entry) {
    const before = last.get(e.controller);
    if (e.controller && (!before || before.id <= e.id)) last.set(e.controller, e);
  }
  $effect(() => {
    feed.follow("controllers", ["journal"]);
    return () => feed.follow("controllers", []);
  });
  $effect(() => {
    void feed.epoch;
    void api.GET("/api/v1/journal", { params: { query: { limit: 200 } } }).then(({ data }) => data?.forEach(heard));
  });
  $effect(() => feed.hear(heard));

  const profileOf = (c: Controller) => show.shown(c.id)?.profile ?? c.profile;
  const profile = (c: Controller) => show.doc?.profiles.find((p) => p.id === profileOf(c))?.name ?? "";
  /** How many controls of the pages of each layout and zone do something, of how many, by profile. */
  const maps = new SvelteMap<string, PageMap[]>();
  $effect(() => {
    void show.doc;
    for (const id of new Set(controllers.map(profileOf)))
      void api
        .GET("/api/v1/profiles/{id}/map", { params: { path: { id } } })
        .then(({ data }) => data && maps.set(id, data));
  });
  function used(c: Controller): string {
    const mine = maps.get(profileOf(c))?.filter((m) => m.layout === c.layout) ?? [];
    const sum = (of: (m: PageMap) => number) => mine.reduce((n, m) => n + of(m), 0);
    return mine.length > 0 ? `${sum((m) => m.used)} of ${sum((m) => m.controls)}` : "";
  }

  const columns = [
    { text: "Controller", by: (c: Controller) => c.name },
    { text: "Profile", by: profile },
    { text: "Shows" },
    { text: "Attached", by: (c: Controller) => c.links.length },
    { text: "Keys used", numeric: true, by: used },
    { text: "Touched last", wide: true, by: (c: Controller) => last.get(c.slug)?.at ?? "" },
  ];

  async function turn(c: Controller, page: string) {
    return said(await api.PUT("/api/v1/controllers/{id}/page", { params: { path: { id: c.id } }, body: { page } }));
  }
</script>

{#if controllers.length === 0}
  <p class="quiet">
    None yet. <a href="/patch">Patch</a> offers the first one: a layout to draw on, which is a panel in any browser at once.
  </p>
{:else}
  <Rows
    label="Controllers"
    {columns}
    rows={controllers}
    key={(c) => c.id}
    current={open}
    data-of={(c: Controller) => c.slug}
  >
    {#snippet cells(c)}
      {@const entry = last.get(c.slug)}
      <td
        ><Act class="name" onclick={() => onopen(c.id)}
          ><span><strong>{c.name}</strong><small>{c.title}</small></span></Act
        ></td
      >
      <td>{profile(c)}</td>
      <td
        ><div class="pages">
          {#each c.zones as zone (zone)}
            {@const pages = show.pagesOf(c, zone)}
            {#if pages.length > 0}
              <Choice
                label="Page of {zone} of {c.name}"
                hideLabel
                value={show.shown(c.id)?.zones[zone]?.[0] ?? pages[0]!.id}
                choices={pages.map((p) => ({ value: p.id, text: p.name }))}
                onchange={(page) => turn(c, page)}
              />
            {/if}
          {/each}
        </div></td
      >
      <td class="hardware"
        >{#each c.links as l (l.id)}
          {@const b = hardware.of(l.id)}
          {#if l.kind === "keys-here" && !b?.here}
            <span class="quiet">keys of a browser: none shows it</span>
          {:else}
            <span class="phase {b?.here && !l.off ? 'up' : 'down'}"
              >{l.off ? "switched off" : b?.here ? "here" : "away"}</span
            >
          {/if}
          {#if b}<span class="mono quiet">{ago(b.since, clock.now)}</span>{/if}
          {#each [b?.problem, ...l.findings
              .filter((f) => f.severity === "caution")
              .map((f) => f.sentence)].filter(Boolean) as text (text)}<small class="bad">{text}</small>{/each}
        {:else}<span class="quiet">–</span>{/each}</td
      >
      <td class="num mono">{used(c)}</td>
      <td class="wide"
        >{#if entry}{entry.title || `${entry.control} ${entry.gesture}`}
          <span class="quiet">{ago(entry.at, clock.now)} ago</span>{:else}<span class="quiet">not yet</span>{/if}</td
      >
    {/snippet}
  </Rows>
{/if}

<style>
  .pages {
    display: flex;
    gap: 0.5rem;
  }
  .pages > :global(*) {
    max-width: 14rem;
  }
</style>
