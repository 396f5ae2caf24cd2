<script lang="ts">
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { focusFirst, holdsFocus } from "../../parts/focus";
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
  import TouchSelects from "./TouchSelects.svelte";

  /** What can be done with the desk: above the drawing, in one row. */
  let {
    desk,
    finding,
    filled,
    sought = $bindable(),
    onfind,
    onfill,
    large,
    onenlarge,
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
    /** The desk is drawn so that labels can be read, and scrolls. */
    large: boolean;
    onenlarge: () => void;
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
  /** Whatever is touched on hardware is selected. */
  let touching = $state(false);
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
    <span class="sought" {@attach focusFirst}>
      <Text
        hideLabel
        label="What the key does"
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
            <Act onclick={() => ongo(o.c, o.p, o.k)}
              ><b>{o.face?.name}</b> <span class="mono">{o.k.id}</span> of {o.c.name}, {o.p.name}</Act
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
              <Act onclick={() => ((open = ""), onadd(l))}>{l.title}</Act>
              {#if l.own}
                <Act onclick={() => ((edited = l.type), (open = "layout"))} quiet>Change</Act>
              {/if}
            </li>
          {/each}
          <li>
            <Act data-menu="own-layout" onclick={() => ((edited = ""), (open = "layout"))}>A layout of my own …</Act>
          </li>
        </ul>
      {/if}
    </span>
  {/if}
  {#if show.doc?.aside}
    <Act onclick={() => toggle("aside")} class="finding"
      >{show.doc.aside} {show.doc.aside === 1 ? "key has" : "keys have"} no place</Act
    >
  {/if}
  <OverflowMenu size="sm" iconDescription="More of {controller?.name}" data-tool="more">
    <OverflowMenuItem text="Open as a panel" href="/panel/{controller?.slug}" target="_blank" />
    <OverflowMenuItem text="Legend" href="/legend/{controller?.slug}" target="_blank" />
    {#if controllers.some((c) => c.links.length > 0)}
      <OverflowMenuItem text="Select by touching hardware" data-menu="touch" on:click={() => (touching = true)} />
    {/if}
    {#if controllers.length > 1}
      <OverflowMenuItem
        text={large ? "Fit the desk to the window" : "Desk at reading size"}
        data-menu="large"
        on:click={() => onenlarge()}
      />
      <OverflowMenuItem text={filled ? "Whole desk" : `Only ${controller?.name}`} on:click={() => onfill()} />
    {/if}
  </OverflowMenu>
  {#if touching}<TouchSelects {desk} onclose={() => (touching = false)} />{/if}
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
  @media (max-width: 950px) {
    .tools {
      flex-wrap: wrap;
    }
  }
  .anchor {
    position: relative;
  }
  .tools li {
    display: flex;
    justify-content: space-between;
  }
  .anchor ul,
  .places {
    position: absolute;
    left: 0;
    top: 36px;
    z-index: 20;
    padding: 0.3rem;
    display: grid;
    background: var(--menu);
    border: 1px solid var(--line);
    border-radius: 6px;
  }
  .sought {
    position: relative;
    width: 15rem;
  }
  .places {
    min-width: 26rem;
  }
</style>
