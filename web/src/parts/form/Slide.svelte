<script lang="ts">
  import { Slider } from "carbon-components-svelte";

  /** A value between two others, moved by hand or with the arrow keys; oninput hears each step of that. */
  let {
    label,
    value = $bindable(),
    min,
    max,
    step,
    said,
    disabled = false,
    oninput,
  }: {
    label: string;
    value: number;
    min: number;
    max: number;
    step: number;
    /** The value as a person knows it, for screen readers. */
    said: (value: number) => string;
    disabled?: boolean;
    oninput?: (value: number) => unknown;
  } = $props();
</script>

<Slider
  labelText={label}
  hideLabel
  hideTextInput
  fullWidth
  {min}
  {max}
  {step}
  {disabled}
  formatValue={said}
  bind:value
  on:input={(e) => oninput?.(e.detail)}
/>
