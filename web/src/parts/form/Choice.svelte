<script lang="ts">
  import { Select, SelectItem } from "carbon-components-svelte";

  /** One of several values. onchange hears what a person chooses, and not what is set from outside. */
  let {
    label,
    value = $bindable(""),
    choices,
    error = "",
    help = "",
    hideLabel = false,
    disabled = false,
    id,
    onchange,
  }: {
    label: string;
    value?: string;
    choices: { value: string; text: string }[];
    error?: string;
    help?: string;
    hideLabel?: boolean;
    disabled?: boolean;
    id?: string;
    onchange?: (value: string) => void;
  } = $props();
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
  selected={value}
  on:change={(e) => {
    value = (e.target as HTMLSelectElement).value;
    onchange?.(value);
  }}
>
  {#each choices as c (c.value)}<SelectItem value={c.value} text={c.text} />{/each}
</Select>
