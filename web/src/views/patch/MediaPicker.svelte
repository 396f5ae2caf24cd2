<script lang="ts">
  import None from "../../parts/form/None.svelte";
  import Drop from "../../parts/form/Drop.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { api, type Media } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { said } from "../../live/show.svelte";
  import { upload } from "./edits";

  /** The media library: pictures are uploaded, dropped, pasted, named, tagged, looked for and chosen. */
  let { chosen, onchoose }: { chosen: string; onchoose: (id: string) => void } = $props();

  const answer = new Answer<Media[]>();
  const list = $derived(answer.of("media") ?? []);
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

  const load = () => answer.ask("media", () => api.GET("/api/v1/media"));
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

<div class="library rows" role="group" aria-label="Media library">
  <Text hideLabel label="Look for a picture" placeholder="Look for a picture" bind:value={words} />
  <Drop
    label={busy ? `${busy} on the way …` : "Choose pictures, drop them here or on a key, or paste one"}
    multiple
    accept={[".png", ".jpg", ".jpeg", ".webp", ".gif", ".svg", "image/*"]}
    data-upload=""
    onfiles={take}
  />
  <div class="grid">
    {#if chosen}<Act onclick={() => onchoose("")}>no picture</Act>{/if}
    {#each fitting as m (m.id)}
      <!-- A picture. -->
      <button aria-pressed={m.id === chosen} title={m.name} data-media={m.name} onclick={() => onchoose(m.id)}>
        <img src="/api/v1/media/{m.id}" alt={m.name} loading="lazy" />
      </button>
    {:else}
      <None waits={answer.waits("media")} problem={answer.problem("media")}
        >{list.length ? "No picture fits these words." : "There are no pictures yet."}</None
      >
    {/each}
  </div>
  {#if current}
    <Text label="name" value={current.name} maxlength={60} onchange={(name) => rename(current, name, current.tags)} />
    <Text label="tags" value={current.tags} maxlength={200} onchange={(tags) => rename(current, current.name, tags)} />
    <p class="quiet">
      {current.width} × {current.height}{current.frames > 1 ? `, ${current.frames} pictures` : ""}; on {current.uses
        .length}
      {current.uses.length === 1 ? "key" : "keys"}
    </p>
  {/if}
  {#each fitting.filter((m) => m.uses.length === 0 && m.id !== chosen).slice(0, 1) as m (m.id)}
    <p class="quiet">
      {m.name} is on no key. <Act onclick={() => remove(m)}>Remove it</Act>
    </p>
  {/each}
</div>

<style>
  .library {
    display: grid;
    gap: 0.4rem;
    border: 1px dashed transparent;
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
    background: var(--hover);
    border: 2px solid transparent;
    color: var(--text);
  }
  .grid button[aria-pressed="true"] {
    border-color: var(--select);
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: contain;
    display: block;
  }
</style>
