<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import type { Control, Controller, Layout, Page } from "../../api/client";
  import { show } from "../../live/show.svelte";

  /** What can be done with the desk: above the drawing, in one row. */
  let {
    controllers,
    controller,
    finding,
    filled,
    sought = $bindable(),
    onfind,
    onfill,
    onadd,
    ongo,
  }: {
    controllers: Controller[];
    controller: Controller;
    finding: boolean;
    filled: Controller | undefined;
    /** What a key is looked for by; undefined: none is. */
    sought: string | undefined;
    onfind: () => void;
    onfill: () => void;
    onadd: (l: Layout) => void;
    ongo: (c: Controller, p: Page, k: Control) => void;
  } = $props();

  let adding = $state(false);

  // Looking for a key by what it does, on every page of every controller.
  const places = $derived(
    (sought ?? "").trim() === ""
      ? []
      : controllers.flatMap((c) =>
          c.zones.flatMap((zone) =>
            show.pagesOf(c, zone).flatMap((p) =>
              c.controls
                .filter((k) => k.zone === zone)
                .map((k) => ({ c, p, k, face: show.faceAt(p.id, k.id) }))
                .filter((o) => o.face && fits(`${o.face.name} ${o.face.label}`)),
            ),
          ),
        ),
  );

  const fits = (text: string) =>
    (sought ?? "")
      .toLowerCase()
      .split(/\s+/)
      .every((w) => text.toLowerCase().includes(w));
</script>

<div class="tools">
  {#if !finding}
    <Button kind="tertiary" size="small" icon={Add} on:click={() => onfind()}>What should it do?</Button>
  {/if}
  {#if controllers.length > 1}
    <button class="plain" onclick={() => onfill()}>{filled ? "Show the whole desk" : `Only ${controller.name}`}</button>
  {/if}
  <a class="panel-link" href="/panel/{controller.slug}" target="_blank" rel="noreferrer">Open as a panel</a>
  <button class="plain" onclick={() => (adding = !adding)} aria-expanded={adding}>Add a controller</button>
  {#if adding}
    <ul>
      {#each show.doc?.layouts ?? [] as l (l.type)}
        <li><button class="plain" onclick={() => ((adding = false), onadd(l))}>{l.title}</button></li>
      {/each}
    </ul>
  {/if}
  {#if sought === undefined}
    <button class="plain" onclick={() => (sought = "")}>Find a key</button>
  {:else}
    <span class="sought">
      <!-- svelte-ignore a11y_autofocus -->
      <input
        autofocus
        aria-label="What the key does"
        placeholder="What does the key do?"
        bind:value={sought}
        onkeydown={(e) => {
          if (e.key === "Escape") sought = undefined;
          else if (e.key === "Enter" && places[0]) ongo(places[0].c, places[0].p, places[0].k);
          else return;
          e.preventDefault();
          e.stopPropagation();
        }}
      />
      {#if sought.trim()}
        <span class="places">
          {#each places.slice(0, 9) as o (o.c.id + o.p.id + o.k.id)}
            <button onclick={() => ongo(o.c, o.p, o.k)}
              ><b>{o.face?.name}</b> <span class="mono">{o.k.id}</span> of {o.c.name}, {o.p.name}</button
            >
          {:else}
            <span class="quiet">No key does that.</span>
          {/each}
        </span>
      {/if}
    </span>
  {/if}
  <p class="quiet hint">
    Select a key, then press <kbd>A</kbd>. Drag a key to move it; with <kbd>Alt</kbd> the two swap, with
    <kbd>Ctrl</kbd> it is copied.
  </p>
</div>

<style>
  .tools {
    display: flex;
    align-items: center;
    gap: 1.25rem;
    padding: 10px 24px 0;
    min-height: 42px;
    font-size: 0.8125rem;
    position: relative;
    white-space: nowrap;
    min-width: 0;
  }
  .panel-link {
    color: #8fd6e0;
  }
  .hint {
    margin-left: auto;
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: 0.8125rem;
    line-height: 1.5;
  }
  .plain {
    background: none;
    border: 0;
    padding: 0;
    color: #8fd6e0;
    font: inherit;
    text-align: left;
    cursor: pointer;
    text-decoration: underline;
  }
  .tools ul {
    position: absolute;
    left: 24px;
    top: 44px;
    z-index: 20;
    margin: 0;
    padding: 0.75rem 1rem;
    list-style: none;
    display: grid;
    gap: 0.6rem;
    background: #1c2024;
    border: 1px solid var(--line);
    border-radius: 6px;
  }
  .sought {
    position: relative;
  }
  .sought input {
    width: 14rem;
    height: 30px;
    background: #262b31;
    border: 0;
    border-bottom: 1px solid var(--select);
    color: var(--text);
    font: inherit;
    padding: 0 0.5rem;
  }
  .places {
    position: absolute;
    left: 0;
    top: 34px;
    z-index: 20;
    min-width: 26rem;
    display: grid;
    padding: 0.4rem;
    background: #1c2024;
    border: 1px solid var(--line);
    border-radius: 6px;
  }
  .places button {
    background: none;
    border: 0;
    color: var(--quiet);
    font: inherit;
    text-align: left;
    padding: 0.35rem 0.5rem;
    cursor: pointer;
  }
  .places button:hover,
  .places button:focus-visible {
    background: #2a2f35;
  }
  .places b {
    color: var(--text);
    font-weight: 600;
  }
</style>
