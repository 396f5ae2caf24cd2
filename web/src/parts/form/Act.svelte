<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import type { Snippet } from "svelte";

  /** Something to do that reads like a link, among text or beside a field. */
  let {
    children,
    onclick,
    submit = false,
    quiet = false,
    ...rest
  }: {
    children: Snippet;
    onclick?: (e: MouseEvent) => unknown;
    /** It sends the form that it stands in. */
    submit?: boolean;
    /** It is rarely wanted. */
    quiet?: boolean;
    id?: string;
    title?: string;
    disabled?: boolean;
    class?: string;
    "aria-label"?: string;
    "aria-expanded"?: boolean;
    "aria-pressed"?: boolean;
    [key: `data-${string}`]: unknown;
  } = $props();
</script>

<Button
  {...rest}
  type={submit ? "submit" : "button"}
  kind="ghost"
  size="small"
  class="act {quiet ? 'quiet' : ''} {rest.class ?? ''}"
  on:click={(e) => onclick?.(e as unknown as MouseEvent)}>{@render children()}</Button
>
