<script lang="ts">
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { focusFirst } from "../../parts/focus";
  import { api } from "../../api/client";
  import { said, show } from "../../live/show.svelte";
  import type { Desk } from "./desk.svelte";
  import * as edits from "./edits";

  /** What can be done with several keys at once, and with keys and pages. */
  let { desk }: { desk: Desk } = $props();

  const many = $derived(desk.also.length > 0);
  const mapped = $derived(desk.selection.filter((id) => show.mappingAt(desk.page, id)));
  /** The other pages of the zone. */
  const pages = $derived(
    desk.controller && desk.control
      ? show.pagesOf(desk.controller, desk.control.zone).filter((p) => p.id !== desk.page)
      : [],
  );

  let asking = $state<"" | "page" | "name">("");
  let name = $state("");

  /** Asks for the page that the selection is copied to. */
  export function duplicate() {
    if (mapped.length > 0) asking = "page";
  }

  async function toPage(page: string) {
    const first = mapped[0];
    asking = "";
    if (!first) return;
    const at = { ...desk.here(), control: first };
    const to = await edits.move(at, mapped.slice(1), { ...at, page }, { copy: true });
    if (to.length > 0 && desk.controller && desk.control) desk.draw(desk.controller, desk.control.zone, page);
  }

  async function toNewPage() {
    const r = await api.POST("/api/v1/pages/{page}/extract", {
      params: { path: { page: desk.page } },
      body: { controls: mapped, name },
    });
    if (!said(r) || !r.data) return;
    asking = "";
    await show.load();
    if (desk.controller && desk.control) desk.draw(desk.controller, desk.control.zone, r.data.id);
  }

  function keys(e: KeyboardEvent) {
    if (e.key !== "Escape" || !asking) return;
    asking = "";
    e.stopPropagation();
    e.preventDefault();
  }
</script>

<svelte:window onkeydowncapture={keys} />

{#if asking === "page"}
  <span class="tools" role="group" aria-label="Copy to a page" {@attach focusFirst}>
    {mapped.length === 1 ? "This key" : `${mapped.length} keys`} to
    {#each pages as p (p.id)}
      <Act data-page={p.id} onclick={() => toPage(p.id)}>{p.name}</Act>
    {:else}<span class="quiet">There is no other page here.</span>{/each}
    <Act onclick={() => (asking = "")} quiet>Leave it</Act>
  </span>
{:else if asking === "name"}
  <form
    class="tools"
    {@attach focusFirst}
    onsubmit={(e) => {
      e.preventDefault();
      void toNewPage();
    }}
  >
    <Text hideLabel label="Name of the new page" placeholder="Name of the new page" maxlength={60} bind:value={name} />
    <Act submit>Move {mapped.length} keys there</Act>
    <Act onclick={() => (asking = "")} quiet>Leave it</Act>
  </form>
{:else if many}
  <span class="tools" role="group" aria-label="Selected keys">
    <b>{desk.selection.length} keys</b>
    <Act disabled={!desk.mapping} onclick={() => edits.copyFace(desk.here(), desk.also)}>Look like {desk.selected}</Act>
    <Act disabled={mapped.length < 2} onclick={() => edits.makeMacro(desk.page, mapped)}>Join into a together</Act>
    <Act disabled={mapped.length === 0} onclick={duplicate}>Copy to a page</Act>
    <Act disabled={mapped.length === 0} onclick={() => ((name = ""), (asking = "name"))}>Move to a new page</Act>
    <Act disabled={mapped.length === 0} onclick={() => edits.clear(desk.here(), desk.selection)}>Clear</Act>
  </span>
{:else}
  <p class="quiet hint">
    <span>Select a key, then press <kbd>A</kbd>.</span>
    <span>Drag to move; with <kbd>Alt</kbd> they swap, with <kbd>Ctrl</kbd> it is a copy.</span>
    <span><kbd>Shift</kbd> selects more.</span>
  </p>
{/if}

<style>
  .tools {
    margin-left: auto;
    display: flex;
    gap: 1rem;
    align-items: center;
  }
  /* A sentence that has no room wraps, and what wraps is not seen. */
  .hint {
    flex: 1;
    min-width: 0;
    height: 1.5rem;
    display: flex;
    flex-wrap: wrap;
    justify-content: flex-end;
    gap: 0 0.4rem;
    overflow: hidden;
    font-size: 0.8125rem;
    line-height: 1.5rem;
  }
</style>
