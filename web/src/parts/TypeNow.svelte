<script lang="ts">
  import { feed } from "../live/feed.svelte";

  /** A field for the text of a key that asks for one: it opens when the key is pressed, and presses it once the text is there. */
  let {
    controller,
    control,
    asks,
    via,
    ondone,
  }: {
    /** The controller's slug. */
    controller: string;
    control: string;
    /** What is to be typed. */
    asks: string;
    via: "panel" | "desk";
    ondone: () => void;
  } = $props();

  let field = $state<HTMLInputElement>();
  $effect(() => field?.focus());
  let text = $state("");
  let failed = $state(false);

  function press(e: SubmitEvent) {
    e.preventDefault();
    failed = !feed.touch(controller, control, { edge: "type", text }, via);
    if (!failed) ondone();
  }
</script>

<svelte:window onkeydown={(e) => e.key === "Escape" && ondone()} />

<form aria-label={asks} onsubmit={press}>
  <label for="type-now">{asks}</label>
  <!-- Panels stay light, without Carbon. -->
  <input id="type-now" bind:value={text} maxlength="2000" autocomplete="off" dir="auto" bind:this={field} />
  <!-- Likewise. -->
  <button disabled={!feed.connected}>Press</button>
  <!-- Likewise. -->
  <button type="button" onclick={ondone}>Leave it</button>
  {#if failed}<em role="alert">Nothing was sent: Synaptor is not connected.</em>{/if}
</form>

<style>
  form {
    position: fixed;
    inset: auto 0 0;
    z-index: 60;
    display: flex;
    flex-wrap: wrap;
    gap: 0.75rem;
    align-items: center;
    padding: 0.75rem 1rem;
    background: var(--menu);
    border-top: 2px solid var(--select);
    color: var(--text);
  }
  :is(input, button) {
    font: inherit;
    color: inherit;
    background: var(--ground);
    border: 1px solid var(--edge);
    padding: 0.6rem 0.8rem;
  }
  input {
    flex: 1;
    min-width: 10rem;
  }
</style>
