<script lang="ts">
  import { TextArea, TextInput } from "carbon-components-svelte";
  import type { Field } from "./field";

  /** A line of text, or several. onchange hears what was left or confirmed with Enter, oninput each letter. */
  let {
    label,
    value = $bindable(),
    error = "",
    help = "",
    unit = "",
    hideLabel = false,
    lines = 1,
    onchange,
    oninput,
    ...rest
  }: Field<string> & {
    /** How many lines there are; more than one is a text area. */
    lines?: number;
    type?: "password";
    inputmode?: "text" | "numeric" | "search";
    maxlength?: number;
    pattern?: string;
    placeholder?: string;
    /** The id of a list of what may be meant. */
    list?: string;
    required?: boolean;
    oninput?: (value: string) => void;
    onkeydown?: (e: KeyboardEvent) => void;
  } = $props();

  let line = $state<HTMLInputElement | null>(null);
  let area = $state<HTMLTextAreaElement | null>(null);

  /** Has the field focused, its text selected. */
  export function focus() {
    const ref = line ?? area;
    ref?.focus();
    ref?.select();
  }

  const field = $derived({
    size: "sm" as const,
    labelText: unit ? `${label}, ${unit}` : label,
    hideLabel,
    invalid: !!error,
    invalidText: error,
    helperText: help,
    "data-field": label,
    ...rest,
  });
</script>

{#if lines > 1}
  <TextArea
    {...field}
    rows={lines}
    bind:value={() => value ?? "", (v) => (value = v)}
    bind:ref={area}
    on:change={() => onchange?.(value ?? "")}
    on:input={() => oninput?.(value ?? "")}
  />
{:else}
  <TextInput
    {...field}
    bind:value={() => value ?? "", (v) => (value = String(v ?? ""))}
    bind:ref={line}
    on:change={() => onchange?.(value ?? "")}
    on:input={() => oninput?.(value ?? "")}
  />
{/if}
