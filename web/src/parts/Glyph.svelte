<script lang="ts">
  /** A glyph by name, from the drawing of all glyphs that the server ships. */
  let { name, struck = false, size = 16 }: { name: string; struck?: boolean; size?: number | string } = $props();
</script>

<svg width={size} height={size} aria-hidden="true">
  <use href="/api/v1/glyphs.svg#{name || 'other'}" />
  {#if struck}<line x1="12%" y1="88%" x2="88%" y2="12%" />{/if}
</svg>

<style>
  svg {
    display: block;
  }
  line {
    stroke: currentColor;
    stroke-width: 3;
    stroke-linecap: round;
  }
</style>
