<script lang="ts">
  import { type WeighedFinding } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import { timeOfDay } from "../../live/words.svelte";
  import AcceptForm from "./AcceptForm.svelte";
  import FixPreview from "./FixPreview.svelte";

  /** A finding: its sentence, how sure it is, and what can be done about it. */
  let {
    f,
    key,
    open,
    onopen,
    onreconsider,
    onshow,
    ondone,
  }: {
    f: WeighedFinding;
    key: string;
    /** What is open under it. */
    open: "" | "fix" | "accept";
    onopen: (part: "fix" | "accept") => void;
    onreconsider: () => unknown;
    onshow: () => void;
    ondone: () => unknown;
  } = $props();

  const accepted = $derived(!!f.accepted && !f.stale);
  const when = (at: string) =>
    `${new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "long" })}, ${timeOfDay(at).slice(0, 5)}`;
</script>

<article class={f.severity} class:accepted data-finding={f.id} data-key={key}>
  <div>
    <p>{f.sentence}</p>
    <p class="quiet">
      {f.sentence.startsWith(f.title) ? "" : f.title}{#if f.sure === "guessed"}, a guess{/if}{#if f.accepted}{f.stale
          ? ". It was accepted, and has changed since"
          : ""}. {f.accepted.by}, {when(f.accepted.when)}: “{f.accepted.reason}”{/if}
    </p>
  </div>
  <div class="buttons">
    <Act class="show" aria-label="Show me: {f.sentence}" onclick={onshow}>Show me</Act>
    {#if accepted}
      <Act quiet aria-label="Count it again: {f.sentence}" onclick={onreconsider}>Count it again</Act>
    {:else}
      {#if f.fix}<Act
          class="fix"
          aria-expanded={open === "fix"}
          aria-label="Fix: {f.sentence}"
          onclick={() => onopen("fix")}>Fix</Act
        >{/if}
      <Act
        class="accept"
        quiet
        aria-expanded={open === "accept"}
        aria-label="Accept: {f.sentence}"
        onclick={() => onopen("accept")}>Accept</Act
      >
    {/if}
  </div>
  {#if open === "fix"}<FixPreview {f} {ondone} />{:else if open === "accept"}<AcceptForm {f} {ondone} />{/if}
</article>

<style>
  article {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0 1rem;
    border-top: 1px solid var(--line);
    border-left: 3px solid transparent;
    padding: 0.5rem 0 0.5rem 0.8rem;
  }
  .stops {
    border-left-color: var(--finding);
  }
  .caution {
    border-left-color: color-mix(in srgb, var(--finding) 45%, transparent);
  }
  .accepted {
    border-left-color: transparent;
  }
</style>
