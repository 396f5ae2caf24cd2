<script lang="ts">
  import { api, type Reflex, type ReflexState } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { route } from "../../live/route.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";

  /** A reflex as a sentence, with its switch and what became of it. */
  let {
    r,
    st,
    zone,
    open,
    first,
    last,
    onmove,
    onchanged,
  }: {
    r: Reflex;
    st: ReflexState | undefined;
    /** The time zone of the show. */
    zone: string;
    open: boolean;
    first: boolean;
    last: boolean;
    onmove: (by: number) => unknown;
    onchanged: () => unknown;
  } = $props();

  const at = $derived({ params: { path: { id: r.id } } });
  const next = $derived(st && Date.parse(st.next) > 0 ? new Date(st.next) : undefined);
  const on = $derived(st ? st.on : !r.off);

  const turn = async (to: boolean) => said(await api.PUT("/api/v1/reflexes/{id}/on", { ...at, body: { on: to } }));
  const skip = async (to: boolean) => said(await api.PUT("/api/v1/reflexes/{id}/skip", { ...at, body: { skip: to } }));
  const offer = async (leave: boolean) =>
    said(await api.PUT("/api/v1/reflexes/{id}/offer", { ...at, body: { leave } }));
  async function remove() {
    if (said(await api.DELETE("/api/v1/reflexes/{id}", at), `${r.name} is removed. Undo brings it back.`) && open)
      route.go("/reflexes");
    await onchanged();
  }
</script>

<article data-reflex={r.name} data-id={r.id} class:off={!on}>
  <Tick label="{r.name} is switched on" hideLabel checked={on} onchange={turn} />
  <div>
    <Act
      class="name"
      aria-expanded={open}
      title="↑ ↓ go through the list, with Alt they give it another place"
      onclick={() => route.go(open ? "/reflexes" : `/reflexes/${r.id}`)}><strong>{r.name}</strong></Act
    >
    {#if st?.holds}<span class="holds">holds now</span>{/if}
    <p>{r.sentence}</p>
    {#if st?.offered}
      <p class="buttons" role="status">
        <span>Offered, and not done by itself: {st.offered}.</span>
        <Act onclick={() => offer(false)}>Do it</Act><Act quiet onclick={() => offer(true)}>Leave it</Act>
      </p>
    {/if}
    {#if st?.broken}
      <p class="wrong" role="alert">{st.broken} It was switched off; switch it on when that is put right.</p>
    {/if}
    {#each r.findings as f, i (i)}<p class="wrong" data-finding={f.id}>{f.sentence}</p>{/each}
    <p class="quiet">
      {st?.count
        ? `Fired ${st.count === 1 ? "once" : `${st.count} times`}, last ${ago(st.last, clock.now)} ago`
        : "Has not fired"}{#if st?.held}. Did not fire {ago(st.heldAt, clock.now)} ago: {st.held}{/if}{#if st?.waiting}
        {st.waiting} wait for their time.{/if}{#if next}. Next {next.toLocaleString("en-GB", {
          weekday: "short",
          hour: "2-digit",
          minute: "2-digit",
          ...(zone && { timeZone: zone }),
        })}{#if st?.skipped}, skipped this once{/if}
        <Act quiet onclick={() => skip(!st?.skipped)}>{st?.skipped ? "Do not skip" : "Skip once"}</Act>{/if}
    </p>
  </div>
  <div class="buttons">
    <Act quiet disabled={first} aria-label="{r.name} earlier" onclick={() => onmove(-1)}>↑</Act>
    <Act quiet disabled={last} aria-label="{r.name} later" onclick={() => onmove(1)}>↓</Act>
    <Act quiet aria-label="Remove {r.name}" onclick={remove}>Remove</Act>
  </div>
</article>

<style>
  article {
    display: grid;
    grid-template-columns: 2rem 1fr auto;
    border-top: 1px solid var(--line);
    padding: 0.6rem 0;
  }
  .off p:not(.wrong) {
    color: var(--quiet);
  }
  .holds {
    color: var(--select);
    font-size: 0.75rem;
    margin-left: 0.5rem;
  }
</style>
