<script lang="ts">
  import { api, type StatusItem, type Timer } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock, timeOfDay } from "../../live/words.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { desk } from "./desk.svelte";

  /** The show's time, how long it has been on air, what is counted down to, and the timers with their switches. */
  const answer = new Answer<Timer[]>();
  const timers = $derived(answer.of("all") ?? []);
  $effect(() => {
    void [feed.epoch, feed.values.get("show")];
    void answer.ask("all", () => api.GET("/api/v1/timers"));
  });
  $effect(() => {
    feed.follow("desk-clocks", ["status", "readings:synaptor"]);
    return () => feed.follow("desk-clocks", []);
  });
  // A time of day comes again the next day.
  $effect(() => {
    const at = desk.now?.countAt;
    if (at && Date.parse(at) < clock.now) void desk.load();
  });

  const zone = $derived(desk.now?.timeZone ?? "");
  const time = $derived(timeOfDay(new Date(clock.now).toISOString(), false, zone));
  const streams = $derived(
    ((feed.values.get("status") ?? []) as StatusItem[]).filter((i) => i.kind === "stream" || i.kind === "record"),
  );
  const value = (id: string, what: string) =>
    (feed.values.get(`reading/synaptor:timer/${id}/${what}`) as { value?: unknown } | undefined)?.value;

  const does = async (action: "timer-start" | "timer-stop" | "timer-reset", timer: string) =>
    said(await api.POST("/api/v1/desk", { body: { action, timer } }));
</script>

<dl>
  <div>
    <dt>{zone || "This computer"}</dt>
    <dd class="mono" id="show-time">{time}</dd>
  </div>
  {#each streams as s (s.device + s.title)}
    <div>
      <dt title={s.device}>{s.title}</dt>
      <dd class="mono" class:off={!s.active}>
        {s.quality === "unknown" ? "?" : s.active ? ago(s.since, clock.now) : "off"}
      </dd>
    </div>
  {/each}
  {#if desk.now?.countAt}
    <div>
      <dt>Until {desk.now.countTo}</dt>
      <dd class="mono" id="count-to">{ago(new Date(clock.now).toISOString(), Date.parse(desk.now.countAt))}</dd>
    </div>
  {/if}
  {#each timers as t (t.id)}
    <div data-timer={t.name}>
      <dt>{t.name}</dt>
      <dd class="mono" class:off={!value(t.id, "running")} class:ended={value(t.id, "ended") === true}>
        {value(t.id, "text") ?? "?"}
      </dd>
      <dd class="acts">
        {#if value(t.id, "running")}<Act onclick={() => does("timer-stop", t.id)}>Stop</Act>
        {:else}<Act onclick={() => does("timer-start", t.id)}>Start</Act>{/if}
        <Act quiet onclick={() => does("timer-reset", t.id)}>Reset</Act>
      </dd>
    </div>
  {/each}
</dl>

<style>
  dl {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(6.1rem, 1fr));
    gap: 0.4rem 0.75rem;
    padding: 0 0.75rem 0.75rem;
  }
  dt {
    font-size: 0.8125rem;
    color: var(--quiet);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .mono {
    font-size: 1.25rem;
    line-height: 1.15;
    font-variant-numeric: tabular-nums;
  }
  .off {
    color: var(--quiet);
  }
  .ended {
    background: var(--alarm);
    color: var(--on-alarm);
    width: fit-content;
    padding: 0 0.3rem;
  }
  .acts {
    display: flex;
    margin-left: -0.5rem;
  }
  .acts :global(button) {
    padding: 0 0.5rem;
    min-width: 0;
  }
</style>
