<script lang="ts">
  import { Select, SelectItem } from "carbon-components-svelte";

  /** One of several values. onchange hears what a person chooses; where it says false, the value stays as it is. */
  let {
    label,
    value,
    choices,
    error = "",
    help = "",
    hideLabel = false,
    disabled = false,
    id,
    onchange,
  }: {
    label: string;
    value: string;
    choices: { value: string; text: string }[];
    error?: string;
    help?: string;
    hideLabel?: boolean;
    disabled?: boolean;
    id?: string;
    onchange: (value: string) => Promise<boolean>;
  } = $props();

  /** What was chosen, until the value says whether it is so. */
  let chosen = $state<string>();
  $effect(() => {
    void value;
    chosen = undefined;
  });

  async function choose(to: string) {
    chosen = to;
    if (!(await onchange(to))) chosen = value;
  }
</script>

<Select
  {id}
  size="sm"
  labelText={label}
  {hideLabel}
  {disabled}
  invalid={!!error}
  invalidText={error}
  helperText={help}
  selected={chosen ?? value}
  on:change={(e) => choose((e.target as HTMLSelectElement).value)}
>
  {#each choices as c (c.value)}<SelectItem value={c.value} text={c.text} />{/each}
</Select>
