<script lang="ts">
  import Tick from "../../parts/form/Tick.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { Search } from "carbon-components-svelte";
  import { api, type Reading } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { said, show } from "../../live/show.svelte";

  /** The readings of one device, or of all, live; a click copies the path as expressions write it. */
  let { device = "" }: { device?: string } = $props();

  const most = 300;
  let words = $state("");

  $effect(() => {
    feed.follow("browse", device ? [`readings:${device}`] : ["readings"]);
    return () => feed.follow("browse", []);
  });

  const names = $derived(new Map(show.doc?.devices.map((d) => [d.id, d.name])));
  const rows = $derived.by(() => {
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    return [...feed.values.entries()]
      .filter(([k]) => k.startsWith(device ? `reading/${device}:` : "reading/"))
      .map(([k, v]) => ({ key: k.slice("reading/".length), reading: v as Reading }))
      .filter(({ key, reading: r }) => {
        const text = `${key} ${r.title} ${r.word} ${names.get(key.split(":")[0] ?? "") ?? ""}`.toLowerCase();
        return wanted.every((w) => text.includes(w));
      })
      .sort((a, b) => a.key.localeCompare(b.key, "en", { numeric: true }));
  });

  /** Readings whose present values become a macro that recalls them. */
  let capturing = $state(false);
  let chosen = $state.raw<string[]>([]);

  async function capture() {
    const r = await api.POST("/api/v1/devices/{id}/capture", {
      params: { path: { id: device } },
      body: { paths: chosen, name: "" },
    });
    if (said(r) && r.data) route.go(`/macros/${r.data.id}`);
  }

  async function copy(key: string) {
    const text = `reading('${key}')`;
    try {
      await navigator.clipboard.writeText(text);
      said({}, `Copied ${text}`);
    } catch {
      said({}, text);
    }
  }
</script>

<div class="browse">
  {#if device}
    <p class="capture">
      <Act onclick={() => (capturing = !capturing)}>{capturing ? "Leave it" : "Capture …"}</Act>
      {#if capturing}
        <span class="quiet">Choose what is recalled.</span>
        <Act id="capture" disabled={chosen.length === 0} onclick={capture}
          >Make a macro of {chosen.length} present values</Act
        >
      {/if}
    </p>
  {/if}
  <Search size="sm" placeholder="Search {rows.length} readings" bind:value={words} id="search-readings" />
  <ul>
    {#each rows.slice(0, most) as { key, reading: r } (key)}
      <li>
        {#if capturing}
          <Tick
            label="Recall {r.title}"
            hideLabel
            checked={chosen.includes(r.path)}
            onchange={() =>
              (chosen = chosen.includes(r.path) ? chosen.filter((p) => p !== r.path) : [...chosen, r.path])}
          />
        {/if}
        <!-- A whole row of the list. -->
        <button title="Copy reading('{key}')" onclick={() => copy(key)}>
          <span class="title">{device ? "" : `${names.get(key.split(":")[0] ?? "")}: `}{r.title}</span>
          <span class="word" class:unknown={r.quality === "unknown"}
            >{r.word || "–"}{#if r.quality !== "confirmed"}<em> {r.quality}</em>{/if}{#if r.expected !== undefined}<em>
                → {String(r.expected)}</em
              >{/if}</span
          >
          <span class="path"
            ><span class="mono">{r.path}</span>{#if r.by}{` last changed by ${r.by}`}{/if}</span
          >
        </button>
      </li>
    {:else}
      <li class="none">
        {words ? `Nothing fits “${words}”.` : "None yet: the device has not answered."}
      </li>
    {/each}
    {#if rows.length > most}<li class="none">{rows.length - most} more; search to see them.</li>{/if}
  </ul>
</div>

<style>
  .capture {
    display: flex;
    gap: 0.8rem;
    margin-bottom: 0.4rem;
    font-size: 0.8125rem;
  }
  li {
    display: flex;
    gap: 0.4rem;
    align-items: center;
  }
  li > button {
    flex: 1;
  }
  .browse {
    padding: 0.5rem 1rem 1rem;
  }
  ul {
    margin: 0.5rem 0 0;
  }
  button {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0 0.75rem;
    width: 100%;
    text-align: left;
    border-top: 1px solid var(--raster);
    padding: 0.25rem 0;
    cursor: copy;
  }
  button:hover {
    background: var(--menu);
  }
  .title {
    overflow-wrap: anywhere;
  }
  .word {
    text-align: right;
    font-weight: 600;
    overflow-wrap: anywhere;
    max-width: 12rem;
  }
  .word em {
    font-style: normal;
    font-weight: 400;
    color: var(--quiet);
  }
  .unknown {
    color: var(--quiet);
    font-weight: 400;
  }
  .path {
    grid-column: 1 / -1;
    font-size: 0.6875rem;
    color: var(--quiet);
  }
  .none {
    color: var(--quiet);
    padding: 0.5rem 0;
  }
</style>
