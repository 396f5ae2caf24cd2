<script lang="ts">
  import { FileUploaderDropContainer } from "carbon-components-svelte";

  /** Files, chosen or dropped here. */
  let {
    label,
    accept,
    multiple = false,
    onfiles,
    ...rest
  }: {
    label: string;
    /** What they may be: types and endings. */
    accept: string[];
    multiple?: boolean;
    onfiles: (files: readonly File[]) => unknown;
    [key: `data-${string}`]: unknown;
  } = $props();

  let files = $state.raw<File[]>([]);
</script>

<FileUploaderDropContainer
  {...rest}
  labelText={label}
  {accept}
  {multiple}
  bind:files
  on:add={(e) => {
    onfiles(e.detail);
    files = [];
  }}
/>
