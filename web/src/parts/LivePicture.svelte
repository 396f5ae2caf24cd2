<script lang="ts">
  /** A live picture of a device, as long as it is drawn. One that stands still says so. */
  let { device, source, rate = 0 }: { device: string; source: string; rate?: number } = $props();

  const usual = 5;
  let url = $state("");
  let trouble = $state("");

  $effect(() => {
    const wanted = `/api/v1/pictures/${device}/${encodeURIComponent(source)}?rate=${rate || usual}`;
    const pause = 1000 / (rate || usual);
    const stop = new AbortController();
    const next = async () => {
      const began = performance.now();
      try {
        const r = await fetch(wanted, { signal: stop.signal });
        if (r.ok) {
          const fresh = URL.createObjectURL(await r.blob());
          if (url) URL.revokeObjectURL(url);
          url = fresh;
        }
        trouble = !r.ok ? "no picture" : r.headers.get("Synaptor-Frozen") ? "frozen" : "";
      } catch {
        if (stop.signal.aborted) return;
        trouble = "no picture";
      }
      if (!stop.signal.aborted) timer = setTimeout(next, Math.max(20, pause - (performance.now() - began)));
    };
    let timer = setTimeout(next, 0);
    return () => {
      stop.abort();
      clearTimeout(timer);
      // The picture of another source is not that of this one.
      URL.revokeObjectURL(url);
      url = trouble = "";
    };
  });
</script>

{#if url}<img src={url} alt="" />{/if}
{#if trouble}<span>{trouble}</span>{/if}

<style>
  img {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  span {
    position: absolute;
    left: 50%;
    top: 5%;
    transform: translateX(-50%);
    background: #fff;
    color: #000;
    font-size: max(9px, 11cqw);
    line-height: 1.2;
    padding: 0 0.25em;
    white-space: nowrap;
  }
</style>
