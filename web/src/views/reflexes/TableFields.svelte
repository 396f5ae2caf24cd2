<script lang="ts">
  import { api, type ReflexForm } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Drop from "../../parts/form/Drop.svelte";
  import Text from "../../parts/form/Text.svelte";
  import { said } from "../../live/show.svelte";

  /** What the response is filled with, a row for each value of a field of the event; to and from CSV. */
  let {
    table = $bindable(),
    event,
    stored,
    error = "",
  }: {
    table: ReflexForm["table"];
    event: string[];
    /** The id of the reflex whose table is stored; else there is nothing to export. */
    stored: string;
    error?: string;
  } = $props();

  async function take(files: readonly File[]) {
    const file = files[0];
    if (!file) return;
    const r = await api.POST("/api/v1/reflexes/table", { body: { text: await file.text() } });
    if (said(r, "The table is read. It counts once the reflex is saved.") && r.data) table = r.data;
  }
  function set(row: number, column: number, text: string) {
    if (!table) return;
    table.rows = table.rows.map((r, i) => (i === row ? r.map((c, j) => (j === column ? text : c)) : r));
  }
</script>

{#if table}
  {@const t = table}
  <Choice label="Row by" value={t.by} choices={event} onchange={(by) => (table = { ...t, by })} />
  <Text
    label="Columns"
    value={t.columns.join(", ")}
    help="Small letters; parameters and conditions say event.column."
    {error}
    onchange={(text) => {
      const columns = text
        .split(",")
        .map((c) => c.trim())
        .filter((c) => c);
      table = { ...t, columns, rows: t.rows.map((r) => [r[0] ?? "", ...columns.map((_, i) => r[i + 1] ?? "")]) };
    }}
  />
  <div class="cells" style:--columns={t.columns.length + 1}>
    <span>{t.by}</span>
    {#each t.columns as c (c)}<span>{c}</span>{/each}
    <span></span>
    {#each t.rows as row, i (i)}
      {#each row as cell, j (j)}
        <Text
          hideLabel
          label="{j === 0 ? t.by : t.columns[j - 1]} of row {i + 1}"
          placeholder={j === 0 ? "* is anyone" : ""}
          value={cell}
          oninput={(text) => set(i, j, text)}
        />
      {/each}
      <Act
        quiet
        aria-label="Take row {i + 1} out"
        onclick={() => (table = { ...t, rows: t.rows.filter((_, n) => n !== i) })}>×</Act
      >
    {/each}
  </div>
  <div class="buttons">
    <Act id="table-row" onclick={() => (table = { ...t, rows: [...t.rows, ["", ...t.columns.map(() => "")]] })}
      >Add a row</Act
    >
    {#if stored}<a href="/api/v1/reflexes/{stored}/table" download>Save as CSV</a>{/if}
    <Act quiet onclick={() => (table = undefined)}>Without a table</Act>
  </div>
  <Drop label="Take a CSV file in place of it" accept={[".csv", "text/csv"]} onfiles={take} />
{:else}
  <div class="buttons">
    <Act id="table-add" onclick={() => (table = { by: event[0] ?? "who", columns: ["value"], rows: [["", ""]] })}
      >Fill it by a table</Act
    >
  </div>
{/if}

<style>
  .cells {
    display: grid;
    grid-template-columns: repeat(var(--columns), minmax(0, 1fr)) 1.5rem;
    gap: 0.2rem;
    align-items: center;
  }
</style>
