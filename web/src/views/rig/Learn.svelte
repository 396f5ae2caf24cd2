<script lang="ts">
  import { onMount } from "svelte";
  import { api, type Controller, type Learned } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said } from "../../live/show.svelte";

  /** A control is learned by touching what shall move it: what it was taken for is seen to move before it is taken. */
  let {
    controller,
    control,
    ontaken,
    onclose,
  }: { controller: Controller; control: string; ontaken: () => void; onclose: () => void } = $props();

  let lesson = $state("");
  const heard = $derived(feed.values.get(`learned/${lesson}`) as Learned | undefined);
  const p = $derived(heard?.proposal);
  const sentence = (source: string) => source.replace(/\+/g, " + ");

  let ended = false;
  async function end() {
    ended = true;
    if (lesson) await api.DELETE("/api/v1/learning/{id}", { params: { path: { id: lesson } } });
  }

  onMount(() => {
    void api.POST("/api/v1/learning", { body: { controller: controller.id, control, hardware: "" } }).then((r) => {
      if (said(r) && r.data) lesson = r.data.id;
      else if (!ended) onclose();
      if (ended) void end(); // it was left before it had begun
    });
    return () => {
      if (!ended) void end();
    };
  });
  /** What is touched does what it did again once the lesson is seen to be over. */
  async function leave() {
    await end();
    onclose();
  }
  $effect(() => {
    if (!lesson) return;
    feed.follow("lesson", [`learning:${lesson}`]);
    return () => feed.follow("lesson", []);
  });
  async function take() {
    if (!p?.sure) return;
    const params = { path: { id: lesson } };
    const r = await api.POST("/api/v1/learning/{id}/control", { params, body: { controller: controller.id, control } });
    if (said(r)) ontaken();
  }
</script>

<svelte:window
  onkeydown={(e) => {
    if (e.key === "Escape") {
      e.stopPropagation();
      void leave();
    }
  }}
/>

<div class="lesson" role="status" data-learns={control} data-lesson={lesson}>
  <strong>Touch what shall be {control}: a key, a dial, a fader or a pedal.</strong>
  {#if p && heard}
    <p>
      <span class="mono" data-source={p.source}>{sentence(p.source)}</span> of {heard.name}. {p.text}
    </p>
    <meter
      min="0"
      max="1"
      value={p.as === "slider" ? (p.share ?? 0) : p.as === "dial" ? (((p.turns ?? 0) / 24) % 1) + 0.5 : p.down ? 1 : 0}
      aria-label="How it moves"
    ></meter>
  {:else}
    <p class="quiet">What is touched does nothing else meanwhile.</p>
  {/if}
  <div class="buttons">
    <Act id="take-lesson" disabled={!p?.sure} onclick={take}>Take it</Act>
    <Act id="end-lesson" quiet onclick={leave}>Cancel</Act>
  </div>
</div>

<style>
  .lesson {
    display: grid;
    gap: 0.3rem;
    padding: 0.6rem 0.75rem;
    border: 1px solid var(--select);
    width: 100%;
    box-sizing: border-box;
  }
  meter {
    width: 100%;
  }
</style>
