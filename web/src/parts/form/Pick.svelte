<script lang="ts">
  import { ComboBox } from "carbon-components-svelte";
  import type { Field } from "./field";

  /** One of many values, found by typing a part of it. onchange hears what a person chooses. */
  let {
    label,
    value = $bindable(),
    choices,
    error = "",
    help = "",
    hideLabel = false,
    placeholder = "Type, or choose …",
    onchange,
    ...rest
  }: Omit<Field<string>, "unit"> & { choices: { value: string; text: string }[]; placeholder?: string } = $props();

  const items = $derived(choices.map((c) => ({ id: c.value, text: c.text })));
  const meant = (item: { text: string }, typed: string) =>
    typed
      .toLowerCase()
      .split(/\s+/)
      .every((word) => item.text.toLowerCase().includes(word));
  /** What was chosen is in the field, and no search: then all are offered. */
  const filter = (item: { text: string }, typed: string) =>
    !typed || choices.some((c) => c.text === typed) || meant(item, typed);
</script>

<ComboBox
  data-field={label}
  {...rest}
  size="sm"
  labelText={label}
  {hideLabel}
  {placeholder}
  {items}
  selectedId={value || undefined}
  shouldFilterItem={filter}
  invalid={!!error}
  invalidText={error}
  helperText={help}
  on:select={(e) => {
    if (e.detail.selectedId === value) return;
    value = e.detail.selectedId;
    onchange?.(value);
  }}
/>
