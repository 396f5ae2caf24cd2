<script lang="ts">
  import { feed } from "./live/feed.svelte";
  import { OneController } from "./live/one.svelte";
  import { show } from "./live/show.svelte";

  /** What each control of a controller does now, in words: a small window beside it, always readable. */
  const one = new OneController("Legend");
  /** Pages that are shown while a control is held, by that control: each is a layer of its own here. */
  const layers = $derived(
    Object.entries(one.shown?.controls ?? {}).flatMap(([control, mapping]) => {
      const held = show.doc?.mappings
        .find((m) => m.id === mapping)
        ?.responses.find((r) => r.action.device === "synaptor" && r.action.action === "page-held");
      const page = show.page(held?.action.params?.["page"] ?? "");
      return page ? [{ control, page }] : [];
    }),
  );
  /** How the hardware calls what is a control. */
  const sources = (control: string) =>
    (one.controller?.links ?? [])
      .flatMap((l) => l.bound.filter((b) => b.control === control).map((b) => b.source.replace(/^KEY_/, "")))
      .join(", ");
  const rows = $derived(
    (one.controller?.controls ?? [])
      .map((c) => ({
        c,
        face: one.faceOf(c.id),
        note: show.noteAt(one.pageOf(c.zone)?.id ?? "", c.id),
        held: layers.flatMap((l) => {
          const name = l.page.zone === c.zone && l.control !== c.id ? show.faceAt(l.page.id, c.id)?.name : "";
          return name ? [{ by: l.control, name }] : [];
        }),
      }))
      .filter((r) => r.face || r.note || r.held.length > 0),
  );
  /** Whether the faces of what is shown have been told: nothing is not what has not come yet. */
  const arrived = $derived(!!one.shown && Object.keys(one.shown.controls).every((c) => one.faceOf(c)));

  // A small window that stays in front of all others, where the browser has such (Document Picture-in-Picture).
  interface InFront {
    requestWindow(size: { width: number; height: number }): Promise<Window>;
  }
  const inFront = (window as { documentPictureInPicture?: InFront }).documentPictureInPicture;
  let main: HTMLElement;
  let moved = $state(false);
  async function keepInFront() {
    const small = await inFront?.requestWindow({ width: 420, height: 520 });
    if (!small) return;
    for (const sheet of document.querySelectorAll('style, link[rel="stylesheet"]'))
      small.document.head.append(sheet.cloneNode(true));
    small.document.documentElement.className = document.documentElement.className;
    for (const { name, value } of document.documentElement.attributes)
      small.document.documentElement.setAttribute(name, value);
    const home = main.parentElement;
    small.document.body.append(main);
    moved = true;
    small.addEventListener("pagehide", () => {
      home?.append(main);
      moved = false;
    });
  }
  const extra = (marks: string[]) => marks.filter((m) => !["turn", "slide", "standing"].includes(m)).join(", ");
</script>

<main bind:this={main}>
  {#if one.controller}
    <h1>
      {one.controller.name}:
      {one.controller.zones
        .map((z) => one.pageOf(z)?.name)
        .filter(Boolean)
        .join(", ")}
    </h1>
    {#if !feed.connected}<p class="lost" role="alert">Not connected. What is written here may be old.</p>{/if}
    {#if rows.length > 0}
      <dl>
        {#each rows as r (r.c.id)}
          <dt>{sources(r.c.id) || r.c.id}</dt>
          <dd class:live={r.face?.on.includes("on-air")}>
            {#if r.face}
              <b>{r.face.name}</b>
              {#if r.face.dial}<span>{r.face.dial.text}</span>{/if}
              {#if r.face.words !== "at rest"}<span class="state">{r.face.words}</span>{/if}
              {#if extra(r.face.marks)}<span>also {extra(r.face.marks)}</span>{/if}
            {:else if r.note}<i>planned: {r.note}</i>{/if}
            {#each r.held as h (h.by)}<span class="held">with {sources(h.by) || h.by}: {h.name}</span>{/each}
          </dd>
        {/each}
      </dl>
    {:else}<p class="quiet">{arrived ? "Nothing is on these pages." : "Loading …"}</p>{/if}
    {#if inFront && !moved}
      <button id="in-front" onclick={keepInFront}>Keep it in front</button>
    {:else if !inFront}
      <p class="quiet">This browser cannot keep a window in front of others.</p>
    {/if}
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
    margin: 0 0 0.5rem;
  }
  dl {
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
  dd b {
    font-weight: 600;
  }
  dd span,
  dd i {
    color: var(--quiet);
    margin-left: 0.5rem;
  }
  dd .held {
    display: block;
    margin-left: 0;
  }
  button {
    margin-top: 0.75rem;
    padding: 0.3rem 0.7rem;
    border: 1px solid var(--edge);
    color: var(--text);
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
