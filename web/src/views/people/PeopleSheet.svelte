<script lang="ts">
  import Parts from "../../parts/form/Parts.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { me } from "../../live/me.svelte";
  import { People } from "../../live/people.svelte";
  import Outputs from "./Outputs.svelte";
  import Panels from "./Panels.svelte";
  import Persons from "./Persons.svelte";
  import Programs from "./Programs.svelte";
  import You from "./You.svelte";

  /** Who may get in: nobody has to sign in until somebody sets a passphrase. */
  let { onclose }: { onclose: () => void } = $props();

  const owner = $derived(me.now?.claimed === true && me.now.role === "owner");
  type Part = "you" | "people" | "panels" | "programs" | "outputs";
  const parts = $derived<{ id: Part; text: string }[]>([
    { id: "you", text: "You" },
    ...(owner
      ? [
          { id: "people" as const, text: "People" },
          { id: "panels" as const, text: "Panels" },
          { id: "programs" as const, text: "Programs" },
        ]
      : []),
    { id: "outputs", text: "Outputs" },
  ]);
  let part = $state<Part>("you");
  const people = new People(() => owner);
  void me.load();
</script>

<SideSheet title="People" {onclose}>
  <Parts {parts} bind:value={part} />
  <div class="all">
    {#if part === "you"}<You />
    {:else if part === "outputs"}<Outputs />
    {:else if part === "people"}<Persons {people} />
    {:else if part === "panels"}<Panels {people} />
    {:else if part === "programs"}<Programs {people} />{/if}
  </div>
</SideSheet>

<style>
  .all {
    padding: 0.75rem 1rem 1rem;
  }
  .all,
  .all :global(:is(form, article)) {
    display: grid;
    gap: 0.75rem;
    justify-items: start;
  }
  .all :global(:is(form, article)) {
    width: 100%;
  }
  .all :global(article > header) {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 0.75rem;
    align-items: center;
    width: 100%;
  }
  .all :global(article + article) {
    border-top: 1px solid var(--line);
    padding-top: 0.75rem;
  }
  .all :global(.told) {
    overflow-wrap: anywhere;
    user-select: all;
  }
  .all :global(.qr) {
    width: 11rem;
  }
</style>
