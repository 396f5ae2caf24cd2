<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Drop from "../../parts/form/Drop.svelte";
  import { Button, TextArea } from "carbon-components-svelte";
  import SheetProblems from "./SheetProblems.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { api, type ImportedSheet, type Problem } from "../../api/client";
  import { said, show } from "../../live/show.svelte";

  /** The device sheets: what they are, one's own ones, and what is wrong with those that were left out. */
  let { onclose }: { onclose: () => void } = $props();

  let body = $state("");
  let problems = $state<string[]>([]);
  const types = $derived(show.doc?.deviceTypes ?? []);

  /** A sheet that would have links made anew, and waits for a decision. */
  let waits = $state<(ImportedSheet & { text: string }) | null>(null);

  async function post(text: string, query = "") {
    const r = await fetch(`/api/v1/sheets${query}`, { method: "POST", body: text });
    const answer = (await r.json()) as ImportedSheet & Partial<Problem>;
    problems = r.ok ? [] : (answer.fields?.map((f) => f.text) ?? [answer.detail ?? "The sheet was not loaded."]);
    return r.ok ? answer : null;
  }

  /** Brings a sheet in, at once where no device has to be connected anew. */
  async function bring(text: string) {
    const would = await post(text, "?check=1");
    if (would && would.reconnects.length > 0) waits = { ...would, text };
    else if (would) await keep(text);
  }

  async function keep(text: string) {
    waits = null;
    const kept = await post(text);
    if (!kept) return;
    body = "";
    said({}, `The sheet ${kept.type} is ${kept.replaces ? "replaced" : "loaded"}.`);
  }

  async function file(files: readonly File[]) {
    if (files[0]) await bring(await files[0].text());
  }

  async function remove(type: string) {
    said(await api.DELETE("/api/v1/sheets/{type}", { params: { path: { type } } }), `The sheet ${type} is removed.`);
  }
</script>

<SideSheet title="Device sheets" {onclose}>
  <div class="body">
    <p class="quiet">
      A device sheet is a JSON file that describes a type of device: what it reports, what it can be told to do. Files
      in the folder <span class="mono">sheets</span> of the data folder are read again whenever they change.
    </p>
    <Drop label="Choose a sheet, or drop it here" accept={[".json", "application/json"]} onfiles={file} />
    <TextArea
      id="sheet-body"
      labelText="or paste a sheet"
      rows={5}
      bind:value={body}
      invalid={problems.length > 0}
      invalidText={problems.length === 1
        ? "This is wrong with it:"
        : `These ${problems.length} things are wrong with it:`}
    />
    {#if problems.length > 0}
      <ol class="wrong" role="alert">
        {#each problems as p (p)}<li>{p}</li>{/each}
      </ol>
    {/if}
    {#if waits}
      {@const w = waits}
      <div class="waits" role="alert">
        <p>
          This replaces the sheet <span class="mono">{w.type}</span>. {w.reconnects.length === 1
            ? "One device is"
            : `${w.reconnects.length} devices are`} connected anew: {w.reconnects.join(", ")}.
        </p>
        <Button size="small" on:click={() => keep(w.text)}>Replace it</Button>
        <Button size="small" kind="ghost" on:click={() => (waits = null)}>Leave it</Button>
      </div>
    {/if}
    <div><Button size="small" disabled={!body.trim() || !!waits} on:click={() => bring(body)}>Import</Button></div>
    <SheetProblems />
    <ul>
      {#each types as t (t.type)}
        <li>
          <span>{t.title}<small class="mono">{t.type}{t.own ? ", your own" : ""}</small></span>
          <a href="/api/v1/sheets/{t.type}" download="{t.type}.json">Save a copy</a>
          {#if t.own}<Act onclick={() => remove(t.type)}>Remove</Act>{/if}
        </li>
      {/each}
    </ul>
  </div>
</SideSheet>

<style>
  .waits {
    display: grid;
    gap: 0.5rem;
    justify-items: start;
    border-left: 3px solid var(--finding);
    padding-left: 0.6rem;
  }
  .wrong {
    font-size: 0.75rem;
    line-height: 1.35;
    max-height: 14rem;
    overflow: auto;
    overflow-wrap: anywhere;
  }
  ul li {
    display: flex;
    gap: 0.75rem;
    align-items: center;
    border-top: 1px solid var(--raster);
    padding: 0.3rem 0;
  }
  li span {
    flex: 1;
  }
  small {
    display: block;
    color: var(--quiet);
    font-size: 0.6875rem;
  }
</style>
