<script lang="ts">
  import { api, type Media } from "../../api/client";
  import { said } from "../../live/show.svelte";
  import { upload } from "./edits";

  /** The media library: pictures are uploaded, dropped, pasted, named, tagged, looked for and chosen. */
  let { chosen, onchoose }: { chosen: string; onchoose: (id: string) => void } = $props();

  let list = $state.raw<Media[]>([]);
  let words = $state("");
  let over = $state(false);
  let busy = $state(0);
  const current = $derived(list.find((m) => m.id === chosen));
  const fitting = $derived(
    list.filter((m) =>
      words
        .toLowerCase()
        .split(/\s+/)
        .every((w) => `${m.name} ${m.tags}`.toLowerCase().includes(w)),
    ),
  );

  async function load() {
    const { data } = await api.GET("/api/v1/media");
    list = data ?? [];
  }
  $effect(() => {
    void chosen;
    void load();
  });

  async function take(files: Iterable<File>) {
    const all = [...files];
    busy += all.length;
    let first: string | undefined;
    for (const f of all) {
      const id = await upload(f);
      first ??= id;
      busy--;
    }
    await load();
    if (all.length === 1 && first) onchoose(first);
  }

  async function rename(m: Media, name: string, tags: string) {
    if (said(await api.PUT("/api/v1/media/{id}", { params: { path: { id: m.id } }, body: { name, tags } })))
      await load();
  }

  async function remove(m: Media) {
    if (said(await api.DELETE("/api/v1/media/{id}", { params: { path: { id: m.id } } }), `${m.name} is gone.`))
      await load();
  }
</script>

<svelte:window
  onpaste={(e) => {
    const files = e.clipboardData?.files;
    if (files?.length) void take(files);
  }}
/>

<div
  class="library fields"
  class:over
  role="group"
  aria-label="Media library"
  ondragover={(e) => {
    e.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(e) => {
    e.preventDefault();
    over = false;
    if (e.dataTransfer) void take(e.dataTransfer.files);
  }}
>
  <div class="row">
    <input class="words" bind:value={words} placeholder="Look for a picture" aria-label="Look for a picture" />
    <label class="plain">
      Upload
      <input
        type="file"
        multiple
        accept=".png,.jpg,.jpeg,.webp,.gif,.svg,image/*"
        data-upload
        onchange={(e) => {
          void take(e.currentTarget.files ?? []);
          e.currentTarget.value = "";
        }}
      />
    </label>
  </div>
  <p class="quiet">Or drop files here or on a key, or paste a picture. {busy ? `${busy} on the way …` : ""}</p>
  <div class="grid">
    {#if chosen}<button class="none" onclick={() => onchoose("")}>no picture</button>{/if}
    {#each fitting as m (m.id)}
      <button aria-pressed={m.id === chosen} title={m.name} data-media={m.name} onclick={() => onchoose(m.id)}>
        <img src="/api/v1/media/{m.id}" alt={m.name} loading="lazy" />
      </button>
    {:else}
      <p class="quiet">{list.length ? "No picture fits these words." : "There are no pictures yet."}</p>
    {/each}
  </div>
  {#if current}
    <div class="row">
      <input
        class="words"
        value={current.name}
        maxlength="60"
        aria-label="Name of the picture"
        onchange={(e) => rename(current, e.currentTarget.value, current.tags)}
      />
      <input
        class="words"
        value={current.tags}
        maxlength="200"
        placeholder="tags"
        aria-label="Tags"
        onchange={(e) => rename(current, current.name, e.currentTarget.value)}
      />
    </div>
    <p class="quiet">
      {current.width} × {current.height}{current.frames > 1 ? `, ${current.frames} pictures` : ""}; on {current.uses
        .length}
      {current.uses.length === 1 ? "key" : "keys"}
    </p>
  {/if}
  {#each fitting.filter((m) => m.uses.length === 0 && m.id !== chosen).slice(0, 1) as m (m.id)}
    <p class="quiet">
      {m.name} is on no key. <button class="plain" onclick={() => remove(m)}>Remove it</button>
    </p>
  {/each}
</div>

<style>
  p {
    font-size: inherit;
    margin: 0;
  }
  .library {
    display: grid;
    gap: 0.4rem;
    border: 1px dashed transparent;
  }
  .over {
    border-color: var(--select);
  }
  .row {
    display: flex;
    gap: 0.75rem;
    align-items: center;
  }
  .grid {
    display: grid;
    grid-template-columns: repeat(auto-fill, 60px);
    gap: 6px;
    max-height: 210px;
    overflow: auto;
  }
  .grid button {
    width: 60px;
    height: 60px;
    padding: 0;
    background: #22272d;
    border: 2px solid transparent;
    cursor: pointer;
    color: var(--text);
    font: inherit;
  }
  .grid button[aria-pressed="true"] {
    border-color: var(--select);
  }
  .grid p {
    grid-column: 1 / -1;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: contain;
    display: block;
  }
  .words {
    flex: 1;
  }
  input[type="file"] {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
</style>
