<script lang="ts">
  import { api, fieldsOf, type Timer } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Pick from "../../parts/form/Pick.svelte";
  import None from "../../parts/form/None.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said } from "../../live/show.svelte";

  /** The timers of Synaptor, with where they stand, and the time zone that times of day go by. */
  let { zone }: { zone: string } = $props();

  const answer = new Answer<Timer[]>();
  const list = $derived(answer.of("all") ?? []);
  const load = () => answer.ask("all", () => api.GET("/api/v1/timers"));
  $effect(() => {
    void [feed.epoch, feed.values.get("show")];
    void load();
  });
  const value = (id: string, what: string) =>
    (feed.values.get(`reading/synaptor:timer/${id}/${what}`) as { value?: unknown } | undefined)?.value;

  const fresh = () => ({
    name: "",
    kind: "down" as Timer["kind"],
    seconds: 300 as number | null,
    at: "",
    coarse: false,
  });
  /** The id of the timer that is edited; new, or empty: none is. */
  let open = $state("");
  let draft = $state(fresh());
  let errors = $state<Record<string, string>>({});

  function edit(t?: Timer) {
    errors = {};
    open = t?.id ?? "new";
    draft = t
      ? { name: t.name, kind: t.kind, seconds: t.seconds ?? null, at: t.at ?? "", coarse: t.coarse ?? false }
      : fresh();
  }
  async function save(e: SubmitEvent) {
    e.preventDefault();
    const { name, kind, seconds, at, coarse } = draft;
    const body = {
      name,
      kind,
      coarse,
      ...(kind === "down" && { seconds: seconds ?? 0 }),
      ...(kind === "to" && { at }),
    };
    const rev = list.find((t) => t.id === open)?.rev;
    const r =
      rev === undefined
        ? await api.POST("/api/v1/timers", { body })
        : await api.PUT("/api/v1/timers/{id}", { params: { path: { id: open } }, body: { ...body, rev } });
    errors = fieldsOf(r.error);
    if (Object.keys(errors).length > 0 || !said(r)) return;
    open = "";
    await load();
  }
  async function remove(t: Timer) {
    said(
      await api.DELETE("/api/v1/timers/{id}", { params: { path: { id: t.id } } }),
      `${t.name} is removed. Undo brings it back.`,
    );
    await load();
  }
  async function act(t: Timer, action: string) {
    said(
      await api.POST("/api/v1/devices/{id}/try", {
        params: { path: { id: "synaptor" } },
        body: { action, params: { timer: t.id } },
      }),
    );
  }

  const zones = Intl.supportedValuesOf("timeZone");
  const setZone = async (timeZone: string) =>
    said(await api.PUT("/api/v1/settings/zone", { body: { timeZone } }), `Schedules go by the clocks of ${timeZone}.`);
  const kinds = [
    { value: "down", text: "down from a time" },
    { value: "up", text: "up" },
    { value: "to", text: "to a time of day" },
  ];
</script>

<div class="rows">
  {#each list as t (t.id)}
    <div class="timer" data-timer={t.name}>
      <strong>{t.name}</strong>
      <span class="mono" class:quiet={!value(t.id, "running")}>{value(t.id, "text") ?? "…"}</span>
      <span class="buttons">
        <Act aria-label="{value(t.id, 'running') ? 'Stop' : 'Start'} {t.name}" onclick={() => act(t, "timer")}
          >{value(t.id, "running") ? "Stop" : "Start"}</Act
        >
        <Act quiet aria-label="Reset {t.name}" onclick={() => act(t, "timer-reset")}>Reset</Act>
        <Act quiet aria-label="Edit {t.name}" onclick={() => edit(t)}>Edit</Act>
        <Act quiet aria-label="Remove {t.name}" onclick={() => remove(t)}>Remove</Act>
      </span>
    </div>
  {:else}<None waits={answer.waits("all")} problem={answer.problem("all")}
      >No timer yet. Timers are readings and actions of Synaptor: on keys, in conditions, in reflexes.</None
    >{/each}
  {#if open}
    <form class="rows" onsubmit={save}>
      <Text id="timer-name" label="Name" bind:value={draft.name} error={errors["name"] ?? ""} />
      <Choice
        label="Counts"
        value={draft.kind}
        choices={kinds}
        error={errors["kind"] ?? ""}
        onchange={(to) => (draft.kind = to as Timer["kind"])}
      />
      {#if draft.kind === "down"}
        <Amount label="Seconds" min={1} bind:value={draft.seconds} error={errors["seconds"] ?? ""} />
      {:else if draft.kind === "to"}
        <Text label="At" placeholder="22:30" bind:value={draft.at} error={errors["at"] ?? ""} />
      {/if}
      <Tick label="In minutes, until its last one" bind:checked={draft.coarse} />
      <div class="buttons">
        <Act submit id="timer-save">{open === "new" ? "Add it" : "Save"}</Act>
        <Act quiet onclick={() => (open = "")}>Leave it</Act>
      </div>
    </form>
  {:else}<div class="buttons"><Act id="add-timer" onclick={() => edit()}>Add a timer</Act></div>{/if}
  <h3>Time zone</h3>
  <Pick
    id="time-zone"
    label="Clocks of"
    value={zone}
    choices={[...new Set([...(zone ? [zone] : []), ...zones])].map((z) => ({ value: z, text: z }))}
    onchange={setZone}
  />
</div>

<style>
  div.rows {
    padding: 0.5rem 1rem 1rem;
  }
  .timer {
    display: grid;
    grid-template-columns: 1fr auto;
    border-top: 1px solid var(--line);
    padding: 0.4rem 0;
  }
  .mono {
    font-size: 1.125rem;
  }
  h3 {
    margin-top: 0.6rem;
  }
</style>
