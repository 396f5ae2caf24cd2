<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, type Reflex, type ReflexState, type Returned, type RollCallRow, type StatusItem } from "../api/client";
  import { Answer } from "../live/answer.svelte";
  import { feed } from "../live/feed.svelte";
  import { leftOver } from "../live/runs.svelte";
  import { said } from "../live/show.svelte";
  import { ago, clock } from "../live/words.svelte";
  import PutBack from "./PutBack.svelte";

  /** What needs a decision: a sentence and its buttons each, the oldest first. On the Desk it has a room of its own, so that no key moves under a hand. */
  let { desk = false }: { desk?: boolean } = $props();

  const warned = $derived(feed.values.get("warning") as { text: string; by: string; at: string } | undefined);
  const rollCall = $derived(feed.values.get("rollcall") as RollCallRow | undefined);
  const left = $derived(leftOver());
  const returned = $derived((feed.values.get("returned") ?? []) as Returned[]);
  const away = $derived(
    desk ? ((feed.values.get("status") ?? []) as StatusItem[]).filter((i) => i.kind === "link") : [],
  );
  let back = $state("");

  // Reflexes that come by the clock are announced five minutes ahead.
  const ahead = 5 * 60_000;
  const reflexes = new Answer<Reflex[]>();
  $effect(() => {
    if (!desk) return;
    feed.follow("decisions", ["reflexes"]);
    return () => feed.follow("decisions", []);
  });
  $effect(() => {
    if (!desk) return;
    void [feed.epoch, feed.values.get("show")];
    void reflexes.ask("all", () => api.GET("/api/v1/reflexes"));
  });
  const soon = $derived(
    (reflexes.of("all") ?? []).flatMap((r) => {
      const st = feed.values.get(`reflex/${r.id}`) as ReflexState | undefined;
      const at = st ? Date.parse(st.next) : 0;
      return st?.on && at > clock.now && at - clock.now < ahead ? [{ r, st, at }] : [];
    }),
  );
  const offered = $derived(
    (reflexes.of("all") ?? []).flatMap((r) => {
      const st = feed.values.get(`reflex/${r.id}`) as ReflexState | undefined;
      return st?.offered ? [{ r, text: st.offered }] : [];
    }),
  );

  interface Row {
    id: string;
    at: number;
    kind: "away" | "returned" | "left" | "warning" | "roll call" | "soon" | "offered";
    of: number;
  }
  const rows = $derived<Row[]>(
    [
      ...(rollCall?.on ? [{ id: "roll", at: Date.parse(rollCall.began), kind: "roll call", of: 0 } as Row] : []),
      ...(warned?.text ? [{ id: "warning", at: Date.parse(warned.at), kind: "warning", of: 0 } as Row] : []),
      ...away.map((a, of): Row => ({ id: `away ${a.device}`, at: Date.parse(a.since), kind: "away", of })),
      ...returned.map((r, of): Row => ({ id: `back ${r.device}`, at: Date.parse(r.at), kind: "returned", of })),
      ...left.map((l, of): Row => ({ id: l.entry, at: Date.parse(l.at), kind: "left", of })),
      ...offered.map((o, of): Row => ({ id: `offer ${o.r.id}`, at: 0, kind: "offered", of })),
      ...soon.map((s, of): Row => ({ id: `soon ${s.r.id}`, at: s.at, kind: "soon", of })),
    ].sort((a, b) => a.at - b.at),
  );

  const seen = async () => said(await api.POST("/api/v1/desk", { body: { action: "seen" } }));
  const endRollCall = async () => said(await api.PUT("/api/v1/preflight/touches", { body: { on: false } }));
  async function leave(entry: string) {
    back = "";
    said(await api.DELETE("/api/v1/putback/{entry}", { params: { path: { entry } } }));
  }
  async function decide(device: string, again: boolean, paths?: string[]) {
    said(
      await api.POST("/api/v1/devices/{id}/returned", {
        params: { path: { id: device } },
        body: { again, ...(paths && { paths }) },
      }),
    );
  }
  const skip = async (id: string, to: boolean) =>
    said(await api.PUT("/api/v1/reflexes/{id}/skip", { params: { path: { id } }, body: { skip: to } }));
  const offer = async (id: string, leave: boolean) =>
    said(await api.PUT("/api/v1/reflexes/{id}/offer", { params: { path: { id } }, body: { leave } }));
  const times = (n: number, one: string) =>
    n === 1 ? `1 ${one} was` : `${n} ${one === "press" ? "presses" : one} were`;
</script>

<div class="decisions" class:desk class:calm={rows.length === 0} role="alert" data-help="desk/decisions">
  {#each rows as row (row.id)}
    {#if row.kind === "roll call"}
      <p id="counting-touches">
        <span>Roll call by {rollCall?.by}: touches are counted, and controllers send nothing but Halt and Safe.</span>
        <Button size="small" on:click={endRollCall}>End it</Button>
      </p>
    {:else if row.kind === "warning"}
      <p id="warning">
        <span><b>{warned?.text}</b> {warned?.by}, {ago(warned?.at ?? "", clock.now)} ago</span>
        <Button size="small" on:click={seen}>Seen</Button>
      </p>
    {:else if row.kind === "away" && away[row.of]}
      {@const a = away[row.of]!}
      <p data-away={a.device}>
        <span
          ><b>{a.device}</b> away {ago(a.since, clock.now)}.{a.known ? ` Last known: ${a.known}.` : ""}{a.notSent
            ? ` ${times(a.notSent, "press")} not sent.`
            : ""}
          {a.text}</span
        >
      </p>
    {:else if row.kind === "returned" && returned[row.of]}
      {@const r = returned[row.of]!}
      <div data-returned={r.name}>
        <p>
          <span
            ><b>{r.name}</b> is back after {Math.round(r.away / 1000)} s and says something else than was last asked of it.{r.notSent
              ? ` ${times(r.notSent, "press")} not sent meanwhile.`
              : ""} Nothing is sent by itself.</span
          >
          <Button size="small" on:click={() => decide(r.device, true)}>Send all again</Button>
          <Button size="small" on:click={() => decide(r.device, false)}>Leave all</Button>
        </p>
        {#each r.rows as d (d.path)}
          <p class="row" data-differs={d.title}>
            <span>{d.title}: asked <b>{d.asked}</b>, it says <b>{d.says}</b></span>
            {#if d.can}<Button size="small" on:click={() => decide(r.device, true, [d.path])}>Send again</Button>
            {:else}<span class="cannot">nothing sets it from here</span>{/if}
            <Button size="small" on:click={() => decide(r.device, false, [d.path])}>Leave</Button>
          </p>
        {/each}
      </div>
    {:else if row.kind === "left" && left[row.of]}
      {@const l = left[row.of]!}
      <p>
        <span><b>{l.title}</b> was cut off {ago(l.at, clock.now)} ago and has left something behind. {l.reason}</span>
        <Button size="small" on:click={() => (back = l.entry)}>Put back …</Button>
        <Button size="small" on:click={() => leave(l.entry)}>Leave</Button>
      </p>
    {:else if row.kind === "soon" && soon[row.of]}
      {@const s = soon[row.of]!}
      <p data-soon={s.r.name} class="calmly">
        <span
          ><b>{s.r.name}</b> comes in {ago(new Date(clock.now).toISOString(), s.at)}{s.st.skipped
            ? ", and is skipped this once"
            : ""}.</span
        >
        <Button size="small" on:click={() => skip(s.r.id, !s.st.skipped)}
          >{s.st.skipped ? "Do not skip" : "Skip once"}</Button
        >
      </p>
    {:else if row.kind === "offered" && offered[row.of]}
      {@const o = offered[row.of]!}
      <p>
        <span><b>{o.r.name}</b> is offered, and not done by itself: {o.text}.</span>
        <Button size="small" on:click={() => offer(o.r.id, false)}>Do it</Button>
        <Button size="small" on:click={() => offer(o.r.id, true)}>Leave it</Button>
      </p>
    {/if}
  {:else}
    {#if desk}<p class="quiet">Nothing waits for a decision.</p>{/if}
  {/each}
</div>
{#if back}<PutBack entry={back} onclose={() => (back = "")} onleave={() => leave(back)} />{/if}

<style>
  .decisions {
    background: var(--alarm);
    color: var(--on-alarm);
    font-size: 0.875rem;
    flex: none;
  }
  .desk {
    height: 60px;
    overflow-y: auto;
    resize: vertical;
  }
  .calm {
    background: var(--plate);
    color: var(--quiet);
    border-bottom: 1px solid var(--line);
  }
  .calm:not(.desk) {
    display: none;
  }
  p {
    display: flex;
    gap: 0.75rem;
    align-items: center;
    padding: 0.25rem 1rem;
  }
  .row {
    padding-left: 2.5rem;
  }
  .calmly {
    background: var(--plate);
    color: var(--text);
  }
  span {
    flex: 1;
  }
  .cannot {
    flex: none;
  }
</style>
