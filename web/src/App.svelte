<script lang="ts">
  import "./live/theme.svelte";
  import Explained from "./parts/Explained.svelte";
  import FirstSteps from "./parts/FirstSteps.svelte";
  import Decisions from "./parts/Decisions.svelte";
  import NoticeList from "./parts/NoticeList.svelte";
  import Popover from "./parts/Popover.svelte";
  import Shortcuts from "./parts/Shortcuts.svelte";
  import StatusLine from "./parts/StatusLine.svelte";
  import TopBar from "./parts/TopBar.svelte";
  import Working from "./parts/Working.svelte";
  import Macros from "./views/macros/Macros.svelte";
  import Preflight from "./views/preflight/Preflight.svelte";
  import Reflexes from "./views/reflexes/Reflexes.svelte";
  import Desk from "./views/desk/Desk.svelte";
  import DeskWindow from "./views/desk/DeskWindow.svelte";
  import { partOf } from "./views/desk/desk.svelte";
  import Journal from "./views/journal/Journal.svelte";
  import Patch from "./views/patch/Patch.svelte";
  import Rig from "./views/rig/Rig.svelte";
  import PeopleSheet from "./views/people/PeopleSheet.svelte";
  import ShowsSheet from "./views/shows/ShowsSheet.svelte";
  import Start from "./views/start/Start.svelte";
  import { api } from "./api/client";
  import { asking, explains } from "./live/asking.svelte";
  import { feed } from "./live/feed.svelte";
  import { me } from "./live/me.svelte";
  import { mine } from "./live/mine.svelte";
  import { single, typing } from "./live/keys.svelte";
  import { haltAll } from "./live/runs.svelte";
  import { route, views } from "./live/route.svelte";
  import { notices, redo, said, show, undo } from "./live/show.svelte";

  let bench = $state(false);
  let help = $state(false);
  let people = $state(false);
  void me.load();
  /** The part of the sheet of shows that is open. */
  let shows = $state<"" | "shows" | "versions" | "archive" | "copies">("");

  feed.start();
  mine.follow();

  $effect(() => {
    feed.follow("frame", ["show", "status", "devices", "controllers", "runs", "findings", "rollcall"]);
  });
  const empty = $derived(!!show.doc && show.doc.devices.length + show.doc.controllers.length === 0);
  // The show is loaded at the start, after every reconnect, and whenever it changes.
  $effect(() => {
    void feed.epoch;
    void feed.values.get("show");
    void show.load();
  });
  $effect(() => {
    if (route.path === "/" && show.doc && !empty)
      route.go(show.doc.devices.length > 0 && show.doc.controllers.length > 0 ? "/patch" : "/rig");
  });
  // Whoever goes to another view has the focus in it: what had it may be gone.
  let main = $state<HTMLElement>();
  $effect(() => {
    void view;
    void show.doc;
    if (!document.activeElement || document.activeElement === document.body) main?.focus();
  });
  /** The part of the Desk that this window is for; empty: it is for all of Synaptor. */
  const part = $derived(partOf(route.path));
  const view = $derived(views.find((v) => route.path.startsWith(v.path))?.path);

  async function lockForMe() {
    said(await api.PUT("/api/v1/me/locked", { body: { locked: !me.now?.locked } }));
    await me.load();
  }

  $effect(() => {
    asking.on = help;
    if (!help) asking.close();
  });
  /** With the keyboard: Enter on what has the focus explains it. */
  function explainKey(e: KeyboardEvent) {
    if (!asking.on || (e.key !== "Enter" && e.key !== " ")) return;
    const at = e.target as HTMLElement;
    if (at.closest(".popover") || !asking.explain(at)) return;
    e.preventDefault();
    e.stopPropagation();
  }

  function onkeydown(e: KeyboardEvent) {
    if (e.defaultPrevented) return;
    const key = e.key.toLowerCase();
    if ((e.ctrlKey || e.metaKey) && key === ".") {
      e.preventDefault();
      void haltAll();
      return;
    }
    if ((e.ctrlKey || e.metaKey) && key === "z" && !typing(e)) {
      e.preventDefault();
      if (view === "/desk") {
        notices.add("refused", "Nothing is edited on the Desk. Undo is in every other view.");
        return;
      }
      void (e.shiftKey ? redo() : undo());
      return;
    }
    if (e.key === "Escape") {
      bench = false;
      return;
    }
    if (!single(e)) return;
    const to = views.find((v) => v.key === e.key);
    if (to) route.go(to.path);
    else if (key === "l") void lockForMe();
    else if (e.key === "?") help = !help;
    else if (key === "b" && show.doc?.bench) bench = !bench;
    else return;
    e.preventDefault();
  }
</script>

<svelte:window {onkeydown} onpointerdowncapture={explains} onclickcapture={explains} onkeydowncapture={explainKey} />

{#if part}
  <DeskWindow {part} />
{:else}
  {@render frame()}
{/if}

{#snippet frame()}
  <div class="frame" class:desk={view === "/desk"}>
    <TopBar bind:bench bind:help bind:people bind:shows />
    {#if view !== "/desk"}
      <StatusLine />
      <Decisions />
    {/if}
    <FirstSteps />
    <Working />
    <main bind:this={main} tabindex="-1" class:lost={!feed.connected && !!show.doc}>
      {#if !show.doc}
        <p class="loading">{show.problem || "Loading the show …"}</p>
      {:else if route.path === "/"}
        {#if empty}<Start onarchive={() => (shows = "archive")} />{/if}
      {:else if view === "/rig"}
        <Rig />
      {:else if view === "/patch"}
        <Patch />
      {:else if view === "/macros"}
        <Macros />
      {:else if view === "/reflexes"}
        <Reflexes />
      {:else if view === "/preflight"}
        <Preflight />
      {:else if view === "/desk"}
        <Desk />
      {:else if view === "/journal"}
        <Journal />
      {:else}
        <p class="loading">There is nothing at {route.path}. Choose a view above.</p>
      {/if}
    </main>
    {#if shows}<div class="over"><ShowsSheet bind:part={shows} onclose={() => (shows = "")} /></div>{/if}
    {#if people}<div class="over"><PeopleSheet onclose={() => (people = false)} /></div>{/if}
    {#if bench}
      {#await import("./parts/bench/BenchDrawer.svelte") then { default: BenchDrawer }}
        <BenchDrawer onclose={() => (bench = false)} />
      {:catch}
        <div class="over"><p class="loading">The bench cannot be loaded. Load this page again.</p></div>
      {/await}
    {/if}
    {#if asking.open}<Explained />{:else if help && view === "/desk"}
      <Popover title="What is this?" onclose={() => (help = false)}>
        <p id="ask">
          Click any key or part to have it explained, or go to it with Tab and press Enter. Nothing is pressed until
          this is closed.
        </p>
      </Popover>
    {:else if help}<Shortcuts onclose={() => (help = false)} />{/if}
    <NoticeList />
  </div>
{/snippet}

<style>
  .frame {
    height: 100%;
    display: flex;
    flex-direction: column;
    position: relative;
    overflow: hidden;
  }
  /* What is shown is what was known: nobody can tell whether it still is so. */
  main.lost {
    opacity: 0.6;
  }
  .over {
    position: absolute;
    inset: 80px 0 0 auto;
    width: 420px;
    z-index: 40;
  }
  .frame > :global(header) {
    height: 48px;
    flex: none;
  }
  main {
    position: relative;
    flex: 1;
    overflow: auto;
    min-height: 0;
    outline: none;
  }
  .loading {
    padding: 2rem;
    color: var(--quiet);
  }
</style>
