<script lang="ts">
  import { feed } from "./live/feed.svelte";
  import { OneController } from "./live/one.svelte";
  import { show } from "./live/show.svelte";

  /** What each control of a controller does now, in words: a small window beside it, always readable. */
  const one = new OneController("Legend");
  const rows = $derived(
    (one.controller?.controls ?? [])
      .map((c) => ({ c, face: one.faceOf(c.id), note: show.noteAt(one.pageOf(c.zone)?.id ?? "", c.id) }))
      .filter((r) => r.face || r.note),
  );
  const extra = (marks: string[]) => marks.filter((m) => !["turn", "slide", "standing"].includes(m)).join(", ");
</script>

<main>
  {#if one.controller}
    <h1>
      {one.controller.name}:
      {one.controller.zones
        .map((z) => one.pageOf(z)?.name)
        .filter(Boolean)
        .join(", ")}
    </h1>
    {#if !feed.connected}<p class="lost" role="alert">Not connected. What is written here may be old.</p>{/if}
    <dl>
      {#each rows as r (r.c.id)}
        <dt>{r.c.id}</dt>
        <dd class:live={r.face?.on.includes("on-air")}>
          {#if r.face}
            <b>{r.face.name}</b>
            {#if r.face.dial}<span>{r.face.dial.text}</span>{/if}
            {#if r.face.words !== "at rest"}<span class="state">{r.face.words}</span>{/if}
            {#if extra(r.face.marks)}<span>also {extra(r.face.marks)}</span>{/if}
          {:else}<i>planned: {r.note}</i>{/if}
        </dd>
      {:else}
        <dd>Nothing is on these pages.</dd>
      {/each}
    </dl>
  {:else}
    <p>{show.problem || (show.doc ? `There is no controller "${one.slug}".` : "Loading …")}</p>
  {/if}
</main>

<style>
  main {
    padding: 0.75rem 1rem;
    min-height: 100vh;
    font-family: var(--condensed);
    background: var(--ground);
    color: var(--text);
    columns: 22rem auto;
  }
  h1 {
    font-size: 1.125rem;
    margin: 0 0 0.5rem;
  }
  dl {
    margin: 0;
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0.2rem 0.9rem;
    font-size: 1rem;
    line-height: 1.35;
  }
  dt {
    color: var(--quiet);
    font-family: var(--mono);
    font-size: 0.875rem;
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
  dd b {
    font-weight: 600;
  }
  dd span,
  dd i {
    color: var(--quiet);
    margin-left: 0.5rem;
  }
  .live {
    box-shadow: inset 4px 0 var(--on-air);
    padding-left: 0.6rem;
  }
  .live .state {
    color: #fff;
  }
  .lost {
    background: #fff;
    color: #000;
    padding: 0.3rem 0.6rem;
  }
</style>
