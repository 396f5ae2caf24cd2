<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api } from "../../api/client";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { notices, said, show } from "../../live/show.svelte";
  import type { Desk } from "./desk.svelte";

  /** What was on controls that a layout does not have any more, and the ways back. */
  let { desk, onclose }: { desk: Desk; onclose: () => void } = $props();

  type Row = NonNullable<Awaited<ReturnType<typeof list>>>[number];
  let rows = $state.raw<Row[]>([]);

  async function list() {
    const { data } = await api.GET("/api/v1/aside");
    return data;
  }
  $effect(() => {
    void show.doc;
    void list().then((r) => (rows = r ?? []));
  });

  async function bring(r: Row, to: string) {
    const result = await api.POST("/api/v1/aside", {
      body: { mapping: r.mapping, control: r.control, page: r.page ?? "", to, toPage: to ? desk.page : "" },
    });
    const left = result.data?.left ?? [];
    if (!said(result)) return;
    if (left.length > 0) notices.add("done", `${to} cannot make the gesture ${left.join(", ")}; it was left out.`);
    await show.load();
  }
</script>

<SideSheet title="Keys without a place" {onclose}>
  <div class="body">
    <p class="quiet">
      The layout was made smaller. What was on the controls that are gone is kept here; it answers again when the layout
      has them again. Select a free control to put one there.
    </p>
    {#each rows as r (r.mapping + r.control + (r.page ?? ""))}
      <div class="row">
        <p><b>{r.name}</b> <span class="quiet">was on <span class="mono">{r.control}</span> of {r.pageName}</span></p>
        <Button size="small" kind="tertiary" disabled={!!desk.mapping} on:click={() => bring(r, desk.selected)}
          >Put on {desk.selected}</Button
        >
        <Button size="small" kind="ghost" on:click={() => bring(r, "")}>Take away</Button>
      </div>
    {:else}
      <p>Every key has its place.</p>
    {/each}
  </div>
</SideSheet>

<style>
  .row {
    display: flex;
    gap: 0.5rem;
    align-items: center;
  }
  .row p {
    flex: 1;
    min-width: 0;
  }
</style>
