<script lang="ts">
  import { api, type Control, type Controller, type Path } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";

  /** What the control under the pointer does, and to whom, without pressing it. */
  let { over }: { over: { controller: Controller; control: Control } | undefined } = $props();

  const answer = new Answer<Path>();
  const page = $derived.by(() => {
    if (!over) return "";
    const { controller, control } = over;
    const zone = show.shown(controller.id)?.zones[control.zone] ?? [];
    const mapping = show.shown(controller.id)?.controls[control.id];
    // The page that answers: the one on top that has it, or any where it stands.
    return [...zone].reverse().find((p) => show.page(p)?.controls[control.id] === mapping) ?? zone.at(-1) ?? "";
  });
  const about = $derived(over && page ? `${page}/${over.control.id}` : "");
  $effect(() => {
    if (!about || !over) return;
    const params = { path: { page, control: over.control.id } };
    const wait = setTimeout(
      () => void answer.ask(about, () => api.GET("/api/v1/pages/{page}/controls/{control}/path", { params })),
      120,
    );
    return () => clearTimeout(wait);
  });
  const path = $derived(answer.of(about));
  const lines = $derived(
    (path?.does ?? []).map((d) => ({
      gesture: d.gesture,
      text: d.problem || d.title,
      to: d.macro ? `${d.macro.lines.length} steps` : d.deviceName,
    })),
  );
</script>

<p class="line" role="status" data-help="desk/what-a-key-will-do">
  {#if !over}
    <span class="quiet">Clicks press. Point at a key to read what it does; ? and a click explain it.</span>
  {:else if path && lines.length > 0}
    <span class="mono quiet">{over.control.id}</span>
    {#each lines as l, i (l.gesture + i)}
      <span><span class="quiet">{l.gesture}</span> <b>{l.text}</b> <span class="quiet">{l.to}</span></span>
    {/each}
    {#if path.mapping?.guard}<span>guarded: {path.mapping.guard.kind}</span>{/if}
  {:else if path}
    <span class="mono quiet">{over.control.id}</span><span class="quiet">does nothing on this page.</span>
  {:else}
    <span class="mono quiet">{over.control.id}</span>
  {/if}
</p>

<style>
  .line {
    height: 30px;
    flex: none;
    display: flex;
    gap: 1rem;
    align-items: center;
    padding: 0 0.6rem;
    border-top: 1px solid var(--line);
    background: var(--plate);
    font-size: 0.875rem;
    white-space: nowrap;
    overflow: hidden;
  }
  b {
    font-weight: 600;
  }
</style>
