<script lang="ts">
  import { NumberInput } from "carbon-components-svelte";
  import type { Field } from "./field";

  /** A number, or none where the field is empty. */
  let {
    label,
    value = $bindable(),
    error = "",
    help = "",
    unit = "",
    hideLabel = false,
    min,
    max,
    step = 1,
    onchange,
    ...rest
  }: Field<number | null> & {
    min?: number;
    max?: number;
    step?: number | "any";
    placeholder?: string;
  } = $props();

  const bounds = $derived(
    min !== undefined && max !== undefined
      ? `${min} to ${max}`
      : max !== undefined
        ? `${max} at most`
        : `${min} at least`,
  );
</script>

<NumberInput
  data-field={label}
  {...rest}
  size="sm"
  labelText={unit ? `${label}, ${unit}` : label}
  {hideLabel}
  hideSteppers
  allowEmpty
  disableWheel
  {...min === undefined ? {} : { min }}
  {...max === undefined ? {} : { max }}
  step={step as number}
  bind:value={() => value ?? null, (v) => (value = v)}
  invalid={!!error}
  invalidText={error || bounds}
  helperText={help}
  on:change={(e) => onchange?.(e.detail)}
/>
