<script lang="ts">
  /** A colour. The browser's own field: Carbon has none. */
  let {
    label,
    value,
    onchange,
    oninput,
    ...rest
  }: {
    label: string;
    /** As #rrggbb. */
    value: string | undefined;
    /** Hears what was chosen in the end. */
    onchange?: (value: string) => unknown;
    /** Hears each colour on the way. */
    oninput?: (value: string) => unknown;
    [key: `data-${string}`]: unknown;
  } = $props();
</script>

<input
  data-field={label}
  {...rest}
  type="color"
  aria-label={label}
  title={label}
  {value}
  onchange={(e) => onchange?.(e.currentTarget.value)}
  oninput={(e) => oninput?.(e.currentTarget.value)}
/>

<style>
  input {
    width: 2.5rem;
    height: 1.75rem;
    padding: 0;
    border: 1px solid var(--line);
    background: none;
  }
</style>
