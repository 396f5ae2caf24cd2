<script lang="ts">
  import { Button, PasswordInput } from "carbon-components-svelte";
  import { api, fieldsOf, type ArchiveDoc } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Drop from "../../parts/form/Drop.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import TakeParts from "./TakeParts.svelte";
  import { said, show } from "../../live/show.svelte";

  /** The open show as one file, and a file as a show: what is in it is told before anything is done. */
  let { onadded }: { onadded: () => void } = $props();

  let doc = $state.raw<ArchiveDoc | undefined>();
  let name = $state("");
  let replace = $state(false);
  let problem = $state("");
  let fields = $state<Record<string, string>>({});
  let busy = $state(false);
  /** The passwords are exported too, sealed with this. */
  let seals = $state(false);
  let passphrase = $state("");
  let opens = $state("");
  let wrong = $state("");

  async function exportSealed(e: SubmitEvent) {
    e.preventDefault();
    busy = true;
    const r = await api.POST("/api/v1/archive", { body: { passphrase }, parseAs: "blob" });
    busy = false;
    wrong = fieldsOf(r.error).passphrase ?? "";
    if (wrong || !said(r) || !r.data) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(r.data as Blob);
    link.download = `${show.doc?.name ?? "show"}.synaptor.zip`;
    link.click();
    URL.revokeObjectURL(link.href);
    seals = false;
    passphrase = "";
  }

  /** Parts of it are chosen. */
  let parts = $state(false);

  async function look(files: readonly File[]) {
    const file = files[0];
    if (!file) return;
    busy = true;
    const r = await api.POST("/api/v1/archives", {
      // The types say text; it is sent as it is.
      body: file as unknown as string,
      bodySerializer: (b) => b as unknown as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    });
    busy = false;
    doc = r.data;
    problem = r.error?.detail ?? "";
    name = r.data?.name ?? "";
    replace = parts = false;
    opens = "";
  }

  async function add(e: SubmitEvent) {
    e.preventDefault();
    if (!doc) return;
    busy = true;
    const params = { path: { token: doc.token } };
    const r = await api.POST("/api/v1/archives/{token}/show", {
      params,
      body: { name, replace, passphrase: opens || undefined },
    });
    busy = false;
    fields = fieldsOf(r.error);
    if (fields.name || fields.passphrase || !said(r, `${name.trim()} is there. It is not open yet.`)) return;
    doc = undefined;
    onadded();
  }

  const counted = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`);
  const news = $derived(doc?.sheets.filter((s) => s.state !== "same") ?? []);
  const others = $derived(news.filter((s) => s.state === "other"));
  const states = {
    new: "is added",
    same: "is here already",
    other: "is here with other content",
    wrong: "is left out",
  } as const;
</script>

<div class="body">
  <h3>Take it along</h3>
  <p class="quiet">
    {show.doc?.name ?? "The show"} in one file, with its pictures and your own sheets. Passwords are not in it, unless you
    ask for them.
  </p>
  <div class="buttons">
    <Button size="small" href="/api/v1/archive" download>Export</Button>
    <Button size="small" kind="ghost" href="/api/v1/print" target="_blank">Print all of it</Button>
    <Act aria-expanded={seals} onclick={() => (seals = !seals)}>With the passwords …</Act>
  </div>
  {#if seals}
    <form onsubmit={exportSealed} class="inline">
      <PasswordInput
        size="sm"
        id="passphrase"
        labelText="Passphrase that seals them"
        bind:value={passphrase}
        invalid={!!wrong}
        invalidText={wrong}
      />
      <Button size="small" type="submit" disabled={busy || !passphrase}>Export with them</Button>
    </form>
  {/if}
  <h3>Open an archive</h3>
  <Drop
    label={busy ? "Being read …" : "Choose an archive, or drop it here"}
    accept={[".zip", "application/zip"]}
    data-archive=""
    onfiles={look}
  />
  {#if problem}<p class="wrong" role="alert">{problem} Nothing was changed.</p>{/if}
  {#if doc}
    <form onsubmit={add} class="rows" data-preview={doc.name}>
      <p>
        <b>{doc.name}</b>: {counted(doc.pages, "page", "pages")}, {counted(doc.keys, "key", "keys")}, {counted(
          doc.macros,
          "macro",
          "macros",
        )}, {counted(doc.reflexes, "reflex", "reflexes")}, {counted(doc.pictures, "picture", "pictures")}.
      </p>
      {#if doc.controllers.length}<p class="quiet">Controllers: {doc.controllers.join(", ")}</p>{/if}
      {#if doc.devices.length}
        <p>Once it is open, it connects to:</p>
        <ul>
          {#each doc.devices as d (d.name)}
            <li class:wrong={d.problem}>
              {d.name}, {d.type}, <span class="mono">{d.address}</span>{#if d.problem}. {d.problem}{/if}
            </li>
          {/each}
        </ul>
      {/if}
      {#if doc.fires.length}<p data-fires>By itself it starts: {doc.fires.join(", ")}</p>{/if}
      {#if news.length}
        <p>Sheets:</p>
        <ul>
          {#each news as s (s.file)}<li class:wrong={s.state === "wrong"}>
              {s.file}
              {states[s.state]}{s.text ? `: ${s.text}` : ""}
            </li>{/each}
        </ul>
        {#if others.length}<Tick label="Put its sheets in place of those that are here" bind:checked={replace} />{/if}
      {/if}
      <Text id="archive-name" label="Add it as" maxlength={300} bind:value={name} error={fields.name} />
      {#if doc.sealed}
        <PasswordInput
          size="sm"
          id="opens"
          labelText="Passphrase of its passwords; empty: without them"
          bind:value={opens}
          invalid={!!fields.passphrase}
          invalidText={fields.passphrase ?? ""}
        />
      {/if}
      <div class="buttons bare">
        <Button size="small" type="submit" disabled={busy || !name.trim()}>Add as a show</Button>
        <Button size="small" kind="ghost" on:click={() => (doc = undefined)}>Leave it</Button>
      </div>
    </form>
    <Act aria-expanded={parts} onclick={() => (parts = !parts)}>Or take parts of it into {show.doc?.name} …</Act>
    {#if parts}<TakeParts {doc} ontaken={() => (doc = undefined)} />{/if}
  {/if}
</div>

<style>
  h3 {
    margin-top: 0.4rem;
  }
  li {
    list-style: disc;
    margin-left: 1.1rem;
  }
</style>
