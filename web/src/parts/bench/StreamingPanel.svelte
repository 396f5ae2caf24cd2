<script lang="ts">
  import Front from "./Front.svelte";
  import StreamingPicture from "./StreamingPicture.svelte";
  import type { FrontPanel } from "../../api/client";
  import { show } from "../../live/show.svelte";
  import { hand, ids } from "./operate";

  /** The bench's streaming software, as a window of its own. */
  let { view, address }: { view: FrontPanel; address: string } = $props();

  const operate = hand("streaming");
  /** Its device in the rig, which its pictures are asked through. */
  const slug = $derived(show.doc?.devices.find((d) => d.address === address)?.slug);
  const v = (a: string) => view.values[a];
  const text = (a: string) => String(v(a) ?? "");
  const sets = $derived(ids(view, /^\/set\/(\d+)\/name$/));
  let folder = $state("");
  const set = $derived(folder || text("/loaded/set"));
  const scenes = $derived(ids(view, new RegExp(`^/set/${set}/scene/(\\d+)/name$`)));
  const program = $derived(text("/program/scene"));
  const sources = $derived(ids(view, new RegExp(`^/set/\\d+/scene/${program}/source/(\\d+)/name$`)));
  const at = $derived(`/set/${text("/loaded/set")}/scene/${program}`);
  const inputs = $derived(ids(view, /^\/input\/(\d+)\/name$/));
  const filters = $derived(ids(view, /^\/filter\/(\d+)\/name$/));
  const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;

  // The pictures move; a new address makes the browser ask again.
  let turn = $state(0);
  $effect(() => {
    const t = setInterval(() => (turn += 1), 1000);
    return () => clearInterval(t);
  });
</script>

<Front dead={view.faults.cut} look="--body: #e9e7f2; --ink: #221d33; --key: #fff; --lit: #443a66; --lit-ink: #fff">
  <div class="title"><span>Larkfell bench streaming software</span><small>{address}</small></div>
  <div class="keys" role="group" aria-label="Scene sets">
    {#each sets as s (s)}
      <button aria-pressed={set === s} onclick={() => (folder = s)}>{text(`/set/${s}/name`)}</button>
    {/each}
    {#if set !== text("/loaded/set")}
      <button class="load" onclick={() => operate("/loaded/set", set)}>load this set</button>
    {/if}
  </div>
  <div class="cards">
    {#each scenes as s (s)}
      <button
        class="card"
        class:live={program === s}
        class:next={text("/preview/scene") === s}
        class:gone={v(`/set/${set}/scene/${s}/gone`) === true}
        data-front="scene/{s}"
        onclick={() => operate("/program/scene", s)}
      >
        {#if slug && !view.faults.cut}<img src="/api/v1/pictures/{slug}/scene-{s}?rate=1&turn={turn}" alt="" />{/if}
        <span>{text(`/set/${set}/scene/${s}/name`)}</span>
      </button>
    {/each}
  </div>
  <StreamingPicture {view} {at} />
  <div class="keys" aria-label="Sources of the scene on program">
    {#each sources as s (s)}
      {@const shown = v(`${at}/source/${s}/shown`) === true}
      <button aria-pressed={shown} onclick={() => operate(`${at}/source/${s}/shown`, !shown)}
        >{text(`${at}/source/${s}/name`)}</button
      >
    {/each}
    {#each filters as f (f)}
      <button
        class="round"
        aria-pressed={v(`/filter/${f}/on`) === true}
        onclick={() => operate(`/filter/${f}/on`, v(`/filter/${f}/on`) !== true)}>{text(`/filter/${f}/name`)}</button
      >
    {/each}
  </div>
  <div class="sound">
    {#each inputs as i (i)}
      <span>{text(`/input/${i}/name`)}</span>
      <input
        type="range"
        min="0"
        max="1"
        step="0.01"
        value={Number(v(`/input/${i}/level`) ?? 0)}
        aria-label="Level of {text(`/input/${i}/name`)}"
        oninput={(e) => operate(`/input/${i}/level`, Number(e.currentTarget.value))}
      />
      <button
        aria-pressed={v(`/input/${i}/muted`) === false}
        onclick={() => operate(`/input/${i}/muted`, v(`/input/${i}/muted`) !== true)}
        >{v(`/input/${i}/muted`) === true ? "muted" : "open"}</button
      >
    {/each}
  </div>
  <div class="runs keys">
    {#each [["stream", "Stream"], ["record", "Record"], ["lookback", "Look-back"]] as [id, name] (id)}
      <button
        aria-pressed={v(`/${id}/on`) === true}
        data-front={id}
        onclick={() => operate(`/${id}/on`, v(`/${id}/on`) !== true)}
        >{name}<small
          >{v(`/${id}/on`) !== true
            ? "off"
            : id === "stream"
              ? clock(Number(v("/stream/seconds")))
              : id === "lookback"
                ? `${text("/lookback/seconds")} s`
                : "on"}</small
        ></button
      >
    {/each}
    <button onclick={() => operate("/lookback/save")}
      >Save<small>{text("/lookback/file") || "nothing yet"}</small></button
    >
  </div>
</Front>

<style>
  .title {
    display: flex;
    justify-content: space-between;
    margin: -0.8rem -0.8rem 0;
    background: #443a66;
    color: #fff;
    padding: 0.35rem 0.7rem;
  }
  .cards {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 0.35rem;
  }
  .cards .card {
    padding: 0;
    overflow: hidden;
    display: grid;
    grid-template-rows: auto 1fr;
    background: #cfcadf;
    text-align: left;
    min-height: 4.4rem;
  }
  .card img {
    width: 100%;
    aspect-ratio: 16 / 9;
    object-fit: cover;
    display: block;
  }
  .card span {
    padding: 0.15rem 0.3rem;
    align-self: end;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .card.live {
    outline: 3px solid #443a66;
    font-weight: 600;
  }
  .card.next {
    outline: 2px dashed #443a66;
  }
  .card.gone {
    opacity: 0.4;
    text-decoration: line-through;
  }
  .sound {
    display: grid;
    grid-template-columns: 5.5rem 1fr 3.6rem;
    gap: 0.25rem 0.6rem;
    align-items: center;
  }
  .runs button {
    flex: 1;
    display: grid;
    justify-items: center;
  }
</style>
