<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { api, type Reflex, type ReflexOn, type ReflexState } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { said } from "../../live/show.svelte";
  import { ago, clock } from "../../live/words.svelte";
  import ReflexForm from "./ReflexForm.svelte";
  import ReflexRow from "./ReflexRow.svelte";
  import Timeline from "./Timeline.svelte";
  import Timers from "./Timers.svelte";

  /** What happens with no hand on any control: each reflex as a sentence, with its switch and what became of it; below, the last ten minutes. */
  const answer = new Answer<Reflex[]>();
  const list = $derived(answer.of("all") ?? []);
  const load = () => answer.ask("all", () => api.GET("/api/v1/reflexes"));
  $effect(() => {
    feed.follow("reflexes", ["reflexes", "readings:synaptor"]);
    return () => feed.follow("reflexes", []);
  });
  $effect(() => {
    void [feed.epoch, feed.values.get("show")];
    void load();
  });
  /** What is open: the id of a reflex, new, or timers. */
  const open = $derived(route.path.split("/")[2] ?? "");
  const shown = $derived(list.find((r) => r.id === open));
  const close = () => {
    from = undefined;
    route.go("/reflexes");
  };
  /** What a new one waits for, where it was made of a tick. */
  let from = $state.raw<{ on: ReflexOn; name: string } | undefined>();
  const stands = (id: string) => feed.values.get(`reflex/${id}`) as ReflexState | undefined;
  const groups = $derived([...new Set(list.map((r) => r.group ?? ""))]);
  const isOn = (path: string) =>
    (feed.values.get(`reading/synaptor:${path}`) as { value?: unknown } | undefined)?.value !== false;
  /** Schedules that come within five minutes. */
  const soon = $derived(
    list.filter((r) => {
      const next = Date.parse(stands(r.id)?.next ?? "");
      return next > clock.now && next - clock.now < 300_000 && stands(r.id)?.on;
    }),
  );

  let zone = $state("");
  $effect(() => {
    void feed.values.get("show");
    void api.GET("/api/v1/settings/zone").then(({ data }) => (zone = data?.timeZone ?? ""));
  });

  async function move(r: Reflex, by: number) {
    const path = { id: r.id };
    said(await api.PUT("/api/v1/reflexes/{id}/place", { params: { path }, body: { at: list.indexOf(r) + by } }));
    await load();
  }
  function make(on: ReflexOn, name: string) {
    from = { on, name };
    route.go("/reflexes/new");
  }
  function onkeydown(e: KeyboardEvent) {
    const id = (e.target as HTMLElement | null)?.closest?.("[data-id]")?.getAttribute("data-id");
    const at = list.findIndex((o) => o.id === id);
    const by = e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0;
    const r = list[at];
    if (!r || by === 0) return;
    e.preventDefault();
    if (e.altKey) void move(r, by);
    else document.querySelector<HTMLElement>(`[data-id="${list[at + by]?.id ?? ""}"] .name`)?.focus();
  }
</script>

<div data-help="parts/reflexes" class="view" class:open={open !== ""}>
  <div class="list" role="presentation" {onkeydown}>
    <header>
      <h1>Reflexes</h1>
      <Tick
        id="all-reflexes"
        label="All are on"
        checked={isOn("reflexes/on")}
        onchange={async (all) => said(await api.PUT("/api/v1/reflexes", { body: { all } }))}
      />
      <Tick
        id="audience-reflexes"
        label="The audience is on"
        checked={isOn("audience/on")}
        onchange={async (audience) => said(await api.PUT("/api/v1/reflexes", { body: { audience } }))}
      />
      <Act id="timers" aria-expanded={open === "timers"} onclick={() => route.go("/reflexes/timers")}
        >Timers and time zone</Act
      >
      <Button size="small" id="add-reflex" icon={Add} on:click={() => route.go("/reflexes/new")}>Add a reflex</Button>
    </header>
    {#each soon as r (r.id)}
      <p class="soon" role="status">
        <strong>{r.name}</strong> comes in {ago(
          new Date(clock.now).toISOString(),
          Date.parse(stands(r.id)?.next ?? ""),
        )}.
        {stands(r.id)?.skipped ? "It is skipped this once." : ""}
      </p>
    {/each}
    {#each groups as g (g)}
      {#if g}<h2>{g}</h2>{/if}
      {#each list.filter((r) => (r.group ?? "") === g) as r (r.id)}
        <ReflexRow
          {r}
          st={stands(r.id)}
          {zone}
          open={open === r.id}
          first={list[0] === r}
          last={list.at(-1) === r}
          onmove={(by) => move(r, by)}
          onchanged={load}
        />
      {/each}
    {:else}
      <None waits={answer.waits("all")} problem={answer.problem("all")}
        >Nothing happens by itself yet. A reflex starts an action or a macro when something happens: a message of the
        audience, a device that comes back, a time of day.</None
      >
    {/each}
  </div>
  <Timeline reflexes={list} onmake={make} />
</div>
{#if open === "timers"}
  <SideSheet title="Timers and time zone" onclose={close}><Timers {zone} /></SideSheet>
{:else if open === "new" || shown}
  {#key `${open} ${JSON.stringify(from)}`}
    <SideSheet title={shown?.name ?? "A new reflex"} onclose={close}>
      <ReflexForm
        reflex={shown}
        {from}
        groups={groups.filter((g) => g)}
        onsaved={async (id) => {
          from = undefined;
          await load();
          route.go(`/reflexes/${id}`);
        }}
      />
    </SideSheet>
  {/key}
{/if}

<style>
  .view {
    line-height: 1.35;
    height: 100%;
    display: grid;
    grid-template-rows: 1fr auto;
    font-size: 0.875rem;
  }
  .open {
    padding-right: 420px;
  }
  .list {
    overflow: auto;
    padding: 1.25rem 1.5rem;
  }
  header {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem 1.2rem;
    align-items: center;
    margin-bottom: 0.5rem;
  }
  header :global(.bx--form-item) {
    flex: none;
  }
  h1 {
    margin-right: auto;
  }
  h2 {
    font-size: 0.75rem;
    color: var(--quiet);
    margin: 0.8rem 0 0.3rem;
  }
  .soon {
    background: var(--hover);
    padding: 0.4rem 0.8rem;
  }
</style>
