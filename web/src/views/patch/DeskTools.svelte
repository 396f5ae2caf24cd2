<script lang="ts">
  import { focus, holdsFocus } from "../../parts/focus";
  import { Button, OverflowMenu, OverflowMenuItem } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import type { Snippet } from "svelte";
  import type { Control, Controller, Layout, Page } from "../../api/client";
  import { show } from "../../live/show.svelte";
  import AsidePanel from "./AsidePanel.svelte";
  import type { Desk } from "./desk.svelte";
  import LayoutForm from "./LayoutForm.svelte";
  import PageMap from "./PageMap.svelte";
  import ProfilePanel from "./ProfilePanel.svelte";

  /** What can be done with the desk: above the drawing, in one row. */
  let {
    desk,
    finding,
    filled,
    sought = $bindable(),
    onfind,
    onfill,
    onadd,
    ongo,
    children,
  }: {
    desk: Desk;
    finding: boolean;
    filled: Controller | undefined;
    /** What a key is looked for by; undefined: none is. */
    sought: string | undefined;
    onfind: () => void;
    onfill: () => void;
    onadd: (l: Layout) => void;
    ongo: (c: Controller, p: Page, k: Control) => void;
    /** What can be done with the selection. */
    children: Snippet;
  } = $props();

  const controllers = $derived(desk.controllers);
  const controller = $derived(desk.controller);
  const profile = $derived(show.shown(controller?.id ?? "")?.profile ?? controller?.profile ?? "");
  const profileName = $derived(show.doc?.profiles.find((p) => p.id === profile)?.name ?? "");

  let open = $state<"" | "add" | "layout" | "profiles" | "map" | "aside">("");
  /** The own layout that is edited; empty: a new one. */
  let edited = $state("");
  const toggle = (what: typeof open) => (open = open === what ? "" : what);
  function escape(e: KeyboardEvent) {
    if (e.key !== "Escape" || open !== "add") return;
    open = "";
    e.preventDefault();
  }

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

<svelte:window onkeydowncapture={escape} />

<div class="tools" role="toolbar" aria-label="Desk">
  {#if !finding}
    <Button kind="tertiary" size="small" icon={Add} on:click={() => onfind()}>What should it do?</Button>
  {/if}
  {#if sought === undefined}
    <Button kind="ghost" size="small" data-tool="find" on:click={() => (sought = "")}>Find a key</Button>
  {:else}
    <span class="sought">
      <input
        use:focus
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
  {#if desk.also.length === 0}
    <Button kind="ghost" size="small" data-tool="map" aria-expanded={open === "map"} on:click={() => toggle("map")}
      >Page map</Button
    >
    <Button
      kind="ghost"
      size="small"
      data-tool="profiles"
      aria-expanded={open === "profiles"}
      on:click={() => toggle("profiles")}>Profile: {profileName}</Button
    >
    <span class="anchor">
      <Button kind="ghost" size="small" data-tool="add" aria-expanded={open === "add"} on:click={() => toggle("add")}
        >Add a controller</Button
      >
      {#if open === "add"}
        <ul {@attach holdsFocus}>
          {#each show.doc?.layouts ?? [] as l (l.type)}
            <li>
              <button class="plain" onclick={() => ((open = ""), onadd(l))}>{l.title}</button>
              {#if l.own}
                <button class="plain quiet" onclick={() => ((edited = l.type), (open = "layout"))}>Change</button>
              {/if}
            </li>
          {/each}
          <li>
            <button class="plain" data-menu="own-layout" onclick={() => ((edited = ""), (open = "layout"))}
              >A layout of my own …</button
            >
          </li>
        </ul>
      {/if}
    </span>
  {/if}
  {#if show.doc?.aside}
    <button class="plain finding" onclick={() => toggle("aside")}
      >{show.doc.aside} {show.doc.aside === 1 ? "key has" : "keys have"} no place</button
    >
  {/if}
  <OverflowMenu size="sm" iconDescription="More of {controller?.name}" data-tool="more">
    <OverflowMenuItem text="Open as a panel" href="/panel/{controller?.slug}" target="_blank" />
    <OverflowMenuItem text="Legend" href="/legend/{controller?.slug}" target="_blank" />
    {#if controllers.length > 1}
      <OverflowMenuItem text={filled ? "Whole desk" : `Only ${controller?.name}`} on:click={() => onfill()} />
    {/if}
  </OverflowMenu>
  {@render children()}
</div>
{#if open === "profiles" && controller}
  <ProfilePanel {controller} {profile} onclose={() => (open = "")} />
{:else if open === "map"}
  <PageMap
    {profile}
    onclose={() => (open = "")}
    ongo={(page) => {
      const p = show.doc?.pages.find((o) => o.id === page);
      const c = controllers.find((o) => o.layout === p?.layout);
      const k = c?.controls.find((o) => o.zone === p?.zone);
      if (p && c && k) ongo(c, p, k);
      open = "";
    }}
  />
{:else if open === "layout"}
  <LayoutForm type={edited} onclose={() => (open = "")} {onadd} />
{:else if open === "aside"}
  <AsidePanel {desk} onclose={() => (open = "")} />
{/if}

<style>
  .tools {
    display: flex;
    align-items: center;
    gap: 0.25rem;
    padding: 10px 24px 0;
    min-height: 42px;
    font-size: 0.8125rem;
    position: relative;
    white-space: nowrap;
    min-width: 0;
  }
  .anchor {
    position: relative;
  }
  .plain.finding {
    color: var(--finding);
  }
  .tools li {
    display: flex;
    justify-content: space-between;
  }
  .tools li button {
    color: inherit;
    text-decoration: none;
    padding: 0.4rem 1rem;
    text-align: left;
  }
  .tools li button:first-child {
    flex: 1;
  }
  .tools li button:hover,
  .tools li button:focus-visible {
    background: #2a2f35;
  }
  .tools ul {
    position: absolute;
    left: 0;
    top: 36px;
    z-index: 20;
    margin: 0;
    padding: 0.3rem 0;
    list-style: none;
    display: grid;
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
