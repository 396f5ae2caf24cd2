<script lang="ts">
  import { Select, SelectItem, SelectItemGroup } from "carbon-components-svelte";
  import type { Field } from "./field";

  interface Item {
    value: string;
    text: string;
    /** What it stands under. */
    group?: string;
  }

  /** One of several values. onchange hears what a person chooses; where it says false, the value stays as it is. */
  let {
    label,
    value = $bindable(),
    choices,
    error = "",
    help = "",
    hideLabel = false,
    onchange,
    ...rest
  }: Omit<Field<string>, "unit"> & { choices: (Item | string)[] } = $props();

  const items = $derived(choices.map((c): Item => (typeof c === "string" ? { value: c, text: c } : c)));
  /** The choices in their order, those of one group together. */
  const groups = $derived(
    items.reduce<{ name: string; items: Item[] }[]>((out, c) => {
      const last = out.at(-1);
      if (last && last.name === (c.group ?? "")) last.items.push(c);
      else out.push({ name: c.group ?? "", items: [c] });
      return out;
    }, []),
  );

  async function choose(to: string) {
    const before = value;
    value = to;
    if ((await onchange?.(to)) === false && value === to) value = before;
  }
</script>

<Select
  data-field={label}
  {...rest}
  size="sm"
  labelText={label}
  {hideLabel}
  invalid={!!error}
  invalidText={error}
  helperText={help}
  selected={value ?? ""}
  on:change={(e) => choose((e.target as HTMLSelectElement).value)}
>
  {#each groups as g (g.name)}
    {#if g.name}
      <SelectItemGroup label={g.name}>{@render options(g.items)}</SelectItemGroup>
    {:else}
      {@render options(g.items)}
    {/if}
  {/each}
</Select>

{#snippet options(items: Item[])}
  {#each items as c (c.value)}<SelectItem value={c.value} text={c.text} />{/each}
{/snippet}
