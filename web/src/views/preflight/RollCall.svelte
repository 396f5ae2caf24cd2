<script lang="ts">
  import { api, type RolledRow, type RollCallRow, type SafeRehearsal } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import None from "../../parts/form/None.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { feed } from "../../live/feed.svelte";
  import { said, show } from "../../live/show.svelte";
  import { ago, clock, ms } from "../../live/words.svelte";
  import Touched from "./Touched.svelte";

  /** What only asking around can tell: each device answers, each control arrives, each output gets its safe picture. */
  $effect(() => {
    feed.follow("rollcall", ["rollcall"]);
    return () => feed.follow("rollcall", []);
  });
  const rolled = $derived(feed.values.get("rolled") as RolledRow | undefined);
  const touches = $derived(feed.values.get("rollcall") as RollCallRow | undefined);
  const controllers = $derived(show.doc?.controllers ?? []);
  const touched = (id: string) => touches?.touched[id] ?? [];
  const answered = $derived(rolled?.rows.filter((r) => r.answered).length ?? 0);

  let calling = $state(false);
  async function call() {
    calling = true;
    said(await api.POST("/api/v1/rollcall"));
    calling = false;
  }
  const count = async (on: boolean) => said(await api.PUT("/api/v1/preflight/touches", { body: { on } }));

  const safe = new Answer<SafeRehearsal>();
  $effect(() => {
    void [feed.epoch, feed.values.get("show"), feed.values.get("status")];
    const soon = setTimeout(() => void safe.ask("all", () => api.GET("/api/v1/safe/rehearsal")), 200);
    return () => clearTimeout(soon);
  });
  const rehearsal = $derived(safe.of("all"));
</script>

<section data-help="parts/roll-call" aria-label="Roll call">
  <h2>Roll call</h2>
  <div class="part">
    <header>
      <h3>Devices</h3>
      {#if rolled}<span class="quiet">{answered} of {rolled.rows.length} answered, {ago(rolled.at, clock.now)} ago</span
        >{:else}<span class="quiet">not asked yet</span>{/if}
      <Act id="call" disabled={calling} onclick={call}>{calling ? "Asking …" : "Ask all now"}</Act>
    </header>
    {#if rolled}
      <ul>
        {#each rolled.rows as r (r.device)}
          <li data-rolled={r.device} class:wrong={!r.answered || r.missing.length > 0}>
            {#if !r.problem.startsWith(r.name)}<strong>{r.name}</strong>{/if}
            {r.answered ? `answered in ${ms(r.tookUs)}` : r.problem}{#if r.missing.length}; it has not said {r.missing.join(
                ", ",
              )}{/if}
          </li>
        {/each}
      </ul>
    {/if}
  </div>
  <div class="part">
    <header>
      <h3>Controllers</h3>
      <span class="quiet"
        >{#if touches && Date.parse(touches.began) > 0}{controllers.filter((c) => touched(c.id).length > 0).length} of {controllers.length}
          touched, begun {ago(touches.began, clock.now)} ago{:else}not touched yet{/if}</span
      >
    </header>
    <Tick
      id="counting"
      label="Touches are counted, and nothing is sent"
      checked={touches?.on ?? false}
      onchange={count}
    />
    {#if touches?.on}
      <p class="counting" role="status">
        Touch each control once. Until this is switched off, or ten minutes have passed, controllers send nothing but
        Halt and Safe.
      </p>
    {/if}
    <div class="drawn">
      {#each controllers as c (c.id)}<Touched controller={c} touched={touched(c.id)} />{/each}
    </div>
  </div>
  <div class="part">
    <header>
      <h3>Outputs</h3>
      {#if rehearsal?.rows.length}<span class="quiet" id="safe-in"
          >{rehearsal.rows.filter((r) => !r.problem).length} of {rehearsal.rows.length} are safe {Math.round(
            rehearsal.ms,
          )} ms after a press{#if rehearsal.worstMs > rehearsal.ms + 1}, 95 times of 100 within {Math.round(
              rehearsal.worstMs,
            )} ms{/if}</span
        >{/if}
    </header>
    <ul>
      {#each rehearsal?.rows ?? [] as r (r.output)}
        <li data-safe={r.output} class:wrong={!!r.problem}>
          <strong>{r.title}</strong>
          {#if r.problem}{r.problem}{:else}{r.from || "nothing"} → {r.to || "its safe picture"}
            <span class="quiet">{ms(r.ms * 1000)}</span>{/if}
        </li>
      {:else}
        <li>
          <None waits={safe.waits("all")} problem={safe.problem("all")}
            >No output has a safe picture yet. Rig says which it is.</None
          >
        </li>
      {/each}
    </ul>
  </div>
</section>

<style>
  header {
    display: flex;
    flex-wrap: wrap;
    gap: 0 0.8rem;
    align-items: center;
    min-height: 2rem;
  }
  header :global(.act) {
    margin-left: auto;
  }
  h2 {
    font-size: 1.125rem;
  }
  h3 {
    font-size: 0.8125rem;
  }
  .part {
    border-top: 1px solid var(--line);
    padding: 0.3rem 0 0.8rem;
  }
  .drawn {
    display: flex;
    flex-wrap: wrap;
    gap: 0.8rem 1.2rem;
    padding-top: 0.6rem;
  }
  .counting {
    background: var(--hover);
    padding: 0.4rem 0.6rem;
    margin-top: 0.4rem;
  }
</style>
