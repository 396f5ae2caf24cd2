<script lang="ts">
  import { Checkbox } from "carbon-components-svelte";

  /** Something that is so or is not. onchange is told what hands do, not what became of it elsewhere. */
  let {
    label,
    checked = $bindable(),
    hideLabel = false,
    onchange,
    ...rest
  }: {
    label: string;
    checked?: boolean;
    id?: string;
    hideLabel?: boolean;
    title?: string;
    disabled?: boolean;
    onchange?: (checked: boolean) => unknown;
    [key: `data-${string}`]: unknown;
  } = $props();
</script>

<Checkbox
  data-field={label}
  {...rest}
  labelText={label}
  {hideLabel}
  bind:checked={() => checked ?? false, (v) => (checked = v)}
  on:change={(e) => onchange?.((e.target as HTMLInputElement).checked)}
/>
