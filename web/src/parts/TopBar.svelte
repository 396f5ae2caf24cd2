<script lang="ts">
  import ChevronDown from "carbon-icons-svelte/lib/ChevronDown.svelte";
  import Keyboard from "carbon-icons-svelte/lib/Keyboard.svelte";
  import Redo from "carbon-icons-svelte/lib/Redo.svelte";
  import UserMultiple from "carbon-icons-svelte/lib/UserMultiple.svelte";
  import Undo from "carbon-icons-svelte/lib/Undo.svelte";
  import ToolKit from "carbon-icons-svelte/lib/ToolKit.svelte";
  import ListBoxes from "carbon-icons-svelte/lib/ListBoxes.svelte";
  import EditList from "./EditList.svelte";
  import FindingCount from "./FindingCount.svelte";
  import LockSwitch from "./LockSwitch.svelte";
  import HaltButton from "./HaltButton.svelte";
  import Mark from "./Mark.svelte";
  import { me } from "../live/me.svelte";
  import { route, views } from "../live/route.svelte";
  import { redo, show, undo } from "../live/show.svelte";

  let {
    bench = $bindable(),
    help = $bindable(),
    people = $bindable(),
    shows = $bindable(),
  }: { bench: boolean; help: boolean; people: boolean; shows: string } = $props();

  let history = $state(false);
  /** Nothing is edited there, not by undoing either. */
  const onDesk = $derived(route.path.startsWith("/desk"));

  function open(e: MouseEvent, path: string) {
    if (e.ctrlKey || e.metaKey || e.shiftKey || e.button !== 0) return;
    e.preventDefault();
    route.go(path);
  }
</script>

<header>
  <HaltButton />
  <button
    class="name"
    id="shows"
    aria-expanded={shows !== ""}
    title="Shows"
    onclick={() => (shows = shows ? "" : "shows")}
  >
    <Mark /> <strong class="cut">{show.doc?.name ?? "Synaptor"}</strong><ChevronDown size={16} />
  </button>
  <nav aria-label="Views">
    {#each views as v (v.path)}
      <a
        href={v.path}
        aria-current={route.path.startsWith(v.path) ? "page" : undefined}
        title="{v.title} ({v.key})"
        onclick={(e) => open(e, v.path)}>{v.title}</a
      >
    {/each}
  </nav>
  <span class="tools">
    <button
      id="undo"
      disabled={!show.doc?.undo || onDesk}
      onclick={() => undo()}
      title={onDesk
        ? "Nothing is edited on the Desk"
        : show.doc?.undo
          ? `Undo: ${show.doc.undo} (Ctrl+Z)`
          : "Nothing to undo"}><Undo size={16} /><span class="what cut">{show.doc?.undo || "Undo"}</span></button
    >
    <button
      id="redo"
      disabled={!show.doc?.redo || onDesk}
      onclick={redo}
      title={show.doc?.redo ? `Do again: ${show.doc.redo} (Ctrl+Shift+Z)` : "Nothing to do again"}
      aria-label="Do again"><Redo size={16} /></button
    >
    <button
      id="history"
      aria-expanded={history}
      onclick={() => (history = !history)}
      title="What was edited"
      aria-label="What was edited"><ListBoxes size={16} /></button
    >
    <FindingCount />
    <LockSwitch />
    {#if show.doc?.bench}
      <button id="bench" aria-pressed={bench} onclick={() => (bench = !bench)} title="Simulated devices (B)"
        ><ToolKit size={16} /><span>Bench</span></button
      >
    {/if}
    <button
      id="people"
      aria-pressed={people}
      onclick={() => (people = !people)}
      title={me.now?.who ? `${me.now.who.name}, and who else may get in` : "Who may get in"}
      aria-label="People"><UserMultiple size={16} /></button
    >
    <button aria-pressed={help} onclick={() => (help = !help)} title="Keys and looks (?)" aria-label="Keys and looks"
      ><Keyboard size={16} /></button
    >
  </span>
</header>
{#if history}<EditList onclose={() => (history = false)} />{/if}

<style>
  header {
    display: flex;
    align-items: stretch;
    background: var(--bar);
    border-bottom: 1px solid var(--line);
    font-size: 0.875rem;
    min-width: 0;
  }
  .name {
    display: flex;
    align-items: center;
    gap: 0.6rem;
    padding: 0 1.25rem 0 1rem;
    min-width: 0;
  }
  strong {
    max-width: 16rem;
    font-weight: 600;
  }
  nav {
    display: flex;
  }
  nav a {
    display: flex;
    align-items: center;
    padding: 0 1rem;
    color: var(--quiet);
    text-decoration: none;
  }
  nav a:hover {
    color: var(--text);
  }
  nav a[aria-current] {
    color: var(--text);
    box-shadow: inset 0 -2px var(--select);
  }
  .tools {
    margin-left: auto;
    display: flex;
    min-width: 0;
  }
  button {
    display: flex;
    align-items: center;
    gap: 0.45rem;
    color: var(--text);
    padding: 0 0.8rem;
    min-width: 0;
  }
  header :global(button svg) {
    flex: none;
  }
  button:hover:not(:disabled),
  button[aria-pressed="true"] {
    background: var(--hover);
  }
  button:disabled {
    color: var(--faint);
    cursor: default;
  }
  /* With large text, what is not a view gives way. */
  .what {
    max-width: 15rem;
  }
  @media (max-width: 1400px) {
    #bench span {
      display: none;
    }
    nav a {
      padding: 0 0.8rem;
    }
    .what {
      max-width: 7rem;
    }
  }
  @media (max-width: 1100px) {
    nav a,
    button {
      padding: 0 0.6rem;
    }
  }
  @media (max-width: 950px) {
    .name {
      padding: 0 0.4rem;
    }
    strong,
    .what {
      display: none;
    }
    nav a,
    button {
      padding: 0 0.5rem;
    }
  }
  @media (max-width: 700px) {
    nav a,
    button {
      padding: 0 0.2rem;
      font-size: 0.8125rem;
    }
  }
</style>
