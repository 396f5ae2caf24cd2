<script lang="ts" generics="T">
  import { Table, TableBody, TableHead, TableHeader, TableRow } from "carbon-components-svelte";
  import type { Snippet } from "svelte";

  interface Column {
    text: string;
    /** What it is sorted by; left out: it cannot be. */
    by?: (row: T) => string | number;
    numeric?: boolean;
    /** It is left out where there is little room. */
    wide?: boolean;
  }

  /** A table that sorts by its columns: up, down, and as it was. Its cells are the caller's. */
  let {
    label,
    columns,
    rows,
    key,
    current = "",
    look = () => "",
    sticks = false,
    onopen,
    cells,
    ...rest
  }: {
    label: string;
    columns: Column[];
    rows: readonly T[];
    key: (row: T) => string;
    /** The key of the row that is open. */
    current?: string;
    /** Classes of a row. */
    look?: (row: T) => string;
    /** The heads stay while the rows scroll, to the top of what scrolls. */
    sticks?: boolean;
    /** Hears that a row was clicked. */
    onopen?: (row: T) => void;
    cells: Snippet<[T]>;
    [key: `data-${string}`]: (row: T) => string;
  } = $props();

  let sorted = $state<{ column: string; descending: boolean } | undefined>();
  const words = new Intl.Collator("en", { numeric: true, sensitivity: "base" });

  const shown = $derived.by(() => {
    const by = columns.find((c) => c.text === sorted?.column)?.by;
    if (!by) return rows;
    const sign = sorted?.descending ? -1 : 1;
    const compare = (a: string | number, b: string | number) =>
      typeof a === "number" && typeof b === "number" ? a - b : words.compare(String(a), String(b));
    return [...rows].sort((a, b) => sign * compare(by(a), by(b)));
  });

  function sort(column: string) {
    if (sorted?.column !== column) sorted = { column, descending: false };
    else sorted = sorted.descending ? undefined : { column, descending: true };
  }
  const names = $derived(Object.entries(rest));
</script>

<Table size="short" sortable aria-label={label} class={sticks ? "sticks" : ""}>
  <TableHead>
    <TableRow>
      {#each columns as c (c.text)}
        <TableHeader
          sortable={!!c.by}
          active={sorted?.column === c.text}
          sortDirection={sorted?.column !== c.text ? "none" : sorted.descending ? "descending" : "ascending"}
          translateWithId={(id) => `Sort by ${c.text}, ${id === "columnSortAscending" ? "upwards" : "downwards"}`}
          class="{c.numeric ? 'num' : ''} {c.wide ? 'wide' : ''}"
          on:click={() => c.by && sort(c.text)}>{c.text}</TableHeader
        >
      {/each}
    </TableRow>
  </TableHead>
  <TableBody>
    {#each shown as row (key(row))}
      <TableRow
        class="{look(row)} {key(row) === current ? 'current' : ''} {onopen ? 'opens' : ''}"
        {...Object.fromEntries(names.map(([name, of]) => [name, of(row)]))}
        on:click={() => onopen?.(row)}>{@render cells(row)}</TableRow
      >
    {/each}
  </TableBody>
</Table>
