<script lang="ts">
  import Locked from "carbon-icons-svelte/lib/Locked.svelte";
  import Edit from "carbon-icons-svelte/lib/Edit.svelte";
  import { api } from "../api/client";
  import Popover from "./Popover.svelte";
  import Tick from "./form/Tick.svelte";
  import { feed } from "../live/feed.svelte";
  import { me } from "../live/me.svelte";
  import { said } from "../live/show.svelte";

  /** Whether edits are taken: locked for whoever looks, or for all. Presses go on either way. */
  let open = $state(false);
  const all = $derived((feed.values.get("locked") as boolean | undefined) ?? me.now?.lockedForAll ?? false);
  const locked = $derived(all || me.now?.locked === true);
  const edits = $derived(me.now?.role === "owner" || me.now?.role === "editor");

  async function lock(on: boolean, forAll: boolean) {
    said(await api.PUT("/api/v1/me/locked", { body: { locked: on, all: forAll } }));
    await me.load();
  }
</script>

{#if edits}
  <button
    id="locked"
    aria-expanded={open}
    class:locked
    title={all ? "Edits are locked for all" : locked ? "You have locked edits for yourself" : "Edits are taken"}
    onclick={() => (open = !open)}
    >{#if locked}<Locked size={16} /><span>Locked</span>{:else}<Edit size={16} /><span>Edit</span>{/if}</button
  >
{/if}
{#if open}
  <Popover title="Edit or locked" onclose={() => (open = false)}>
    <p>While edits are locked, nothing of the show can be changed by accident. Keys and panels go on.</p>
    <Tick id="lock-me" label="Locked for me" checked={me.now?.locked ?? false} onchange={(on) => lock(on, false)} />
    <Tick id="lock-all" label="Locked for all" checked={all} onchange={(on) => lock(on, true)} />
  </Popover>
{/if}

<style>
  button {
    display: flex;
    align-items: center;
    gap: 0.45rem;
    color: var(--text);
    padding: 0 0.8rem;
  }
  button:hover {
    background: var(--hover);
  }
  .locked {
    background: var(--alarm);
    color: var(--on-alarm);
  }
  .locked:hover {
    background: var(--alarm);
  }
  @media (max-width: 950px) {
    span {
      display: none;
    }
    button {
      padding: 0 0.3rem;
    }
  }
  p {
    margin-bottom: 0.6rem;
  }
</style>
