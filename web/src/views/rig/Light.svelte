<script lang="ts">
  import { api, type Controller } from "../../api/client";
  import Choice from "../../parts/form/Choice.svelte";
  import Slide from "../../parts/form/Slide.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { said } from "../../live/show.svelte";

  /** How bright a real controller is, and when it is dimmed. */
  let { controller }: { controller: Controller } = $props();

  const stored = $derived({
    brightness: controller.brightness || 100,
    dimAfterS: controller.dimAfterS ?? 0,
    wakeActs: controller.wakeActs ?? false,
  });
  let brightness = $state(100);
  $effect(() => void (brightness = stored.brightness));
  let later: ReturnType<typeof setTimeout> | undefined;

  async function set(to: Partial<typeof stored>) {
    const params = { path: { id: controller.id } };
    return said(await api.PUT("/api/v1/controllers/{id}/light", { params, body: { ...stored, ...to } }));
  }
  const times = [
    { value: "0", text: "never" },
    { value: "30", text: "after 30 s" },
    { value: "60", text: "after a minute" },
    { value: "300", text: "after 5 minutes" },
    { value: "900", text: "after a quarter of an hour" },
    { value: "3600", text: "after an hour" },
  ];
  const dim = $derived(
    times.some((t) => t.value === String(stored.dimAfterS))
      ? times
      : [...times, { value: String(stored.dimAfterS), text: `after ${stored.dimAfterS} s` }],
  );
</script>

<div class="light">
  <span>Brightness</span>
  <Slide
    label="Brightness"
    bind:value={brightness}
    min={1}
    max={100}
    step={1}
    said={(v) => `${v} %`}
    oninput={(v) => {
      clearTimeout(later);
      if (v !== stored.brightness) later = setTimeout(() => set({ brightness: v }), 300);
    }}
  />
  <span>Dimmed</span>
  <Choice
    label="Dimmed"
    hideLabel
    id="dim"
    value={String(stored.dimAfterS)}
    choices={dim}
    onchange={(v) => set({ dimAfterS: Number(v) })}
  />
</div>
{#if stored.dimAfterS > 0}
  <Tick label="The touch that wakes it acts too" checked={stored.wakeActs} onchange={(on) => set({ wakeActs: on })} />
{/if}

<style>
  .light {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0.4rem 1rem;
    align-items: center;
    width: 100%;
  }
</style>
