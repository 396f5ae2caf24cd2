<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import Add from "carbon-icons-svelte/lib/Add.svelte";
  import { api, type Reflex, type ReflexState } from "../../api/client";
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

  /** What happens with no hand on any control: each reflex as a sentence, with its switch and what became of it. */
  const answer = new Answer<Reflex[]>();
  const list = $derived(answer.of("all") ?? []);
  const load = () => answer.ask("all", () => api.GET("/api/v1/reflexes"));
  $effect(() => {
    feed.follow("reflexes", ["reflexes"]);
    return () => feed.follow("reflexes", []);
  });
  $effect(() => {
    void [feed.epoch, feed.values.get("show")];
    void load();
  });
  /** What is open: the id of a reflex, or new. */
  const open = $derived(route.path.split("/")[2] ?? "");
  const shown = $derived(list.find((r) => r.id === open));
  const close = () => route.go("/reflexes");
  const state = (id: string) => feed.values.get(`reflex/${id}`) as ReflexState | undefined;
  const at = (id: string) => ({ params: { path: { id } } });

  async function turn(r: Reflex, on: boolean) {
    const ok = said(await api.PUT("/api/v1/reflexes/{id}/on", { ...at(r.id), body: { on } }));
    await load();
    return ok;
  }
  async function move(r: Reflex, by: number) {
    said(await api.PUT("/api/v1/reflexes/{id}/place", { ...at(r.id), body: { at: list.indexOf(r) + by } }));
    await load();
  }
  async function remove(r: Reflex) {
    if (said(await api.DELETE("/api/v1/reflexes/{id}", at(r.id)), `${r.name} is removed. Undo brings it back.`))
      close();
    await load();
  }
  function onkeydown(e: KeyboardEvent, r: Reflex) {
    const by = e.key === "ArrowUp" ? -1 : e.key === "ArrowDown" ? 1 : 0;
    if (!e.altKey || by === 0) return;
    e.preventDefault();
    void move(r, by);
  }
</script>

<div class="reflexes" class:open={open !== ""}>
  <header>
    <h1>Reflexes</h1>
    <Button size="small" id="add-reflex" icon={Add} on:click={() => route.go("/reflexes/new")}>Add a reflex</Button>
  </header>
  {#each list as r (r.id)}
    {@const st = state(r.id)}
    <article data-reflex={r.name} class:off={r.off || st?.broken}>
      <Tick label="{r.name} is switched on" hideLabel checked={!r.off && !st?.broken} onchange={(on) => turn(r, on)} />
      <div>
        <Act
          class="name"
          aria-expanded={open === r.id}
          title="Alt and ↑ ↓ give it another place"
          onclick={() => route.go(open === r.id ? "/reflexes" : `/reflexes/${r.id}`)}><strong>{r.name}</strong></Act
        >
        <p>{r.sentence}</p>
        {#if st?.broken}<p class="wrong" role="alert">
            {st.broken} It was switched off; switch it on when that is put right.
          </p>
        {:else if st?.problem}<p class="wrong">{st.problem}</p>{/if}
        {#if r.loop.length > 0}
          <p class="wrong">It can set itself off{r.loop.length > 1 ? `, by way of ${r.loop.join(", ")}` : ""}.</p>
        {/if}
        <p class="quiet">
          {st?.count
            ? `Fired ${st.count === 1 ? "once" : `${st.count} times`}, last ${ago(st.last, clock.now)} ago`
            : "Has not fired"}{#if st?.held}. Held back {ago(st.heldAt, clock.now)} ago: {st.held}{/if}{#if st?.waiting}
            {st.waiting} wait for their time.{/if}
        </p>
      </div>
      <div class="buttons">
        <Act quiet disabled={list[0] === r} aria-label="{r.name} earlier" onclick={() => move(r, -1)}>↑</Act>
        <Act quiet disabled={list.at(-1) === r} aria-label="{r.name} later" onclick={() => move(r, 1)}>↓</Act>
        <Act quiet onclick={() => remove(r)}>Remove</Act>
      </div>
    </article>
  {:else}
    <None waits={answer.waits("all")} problem={answer.problem("all")}
      >Nothing happens by itself yet. A reflex starts an action or a macro when something happens: a message of the
      audience, a device that comes back, a level that is crossed.</None
    >
  {/each}
</div>
{#if open === "new" || shown}
  {#key open}
    <SideSheet title={shown?.name ?? "A new reflex"} onclose={close}>
      <ReflexForm
        reflex={shown}
        onsaved={async (id) => {
          await load();
          route.go(`/reflexes/${id}`);
        }}
      />
    </SideSheet>
  {/key}
{/if}
<svelte:window
  onkeydown={(e) => {
    const name = (e.target as HTMLElement | null)?.closest?.("[data-reflex]")?.getAttribute("data-reflex");
    const r = list.find((o) => o.name === name);
    if (r) onkeydown(e, r);
  }}
/>

<style>
  .reflexes {
    height: 100%;
    box-sizing: border-box;
    overflow: auto;
    padding: 1.25rem 1.5rem;
    font-size: 0.875rem;
  }
  .open {
    padding-right: calc(420px + 1rem);
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    margin-bottom: 0.5rem;
  }
  h1 {
    font-size: 1.125rem;
    font-weight: 600;
  }
  article {
    display: grid;
    grid-template-columns: 2rem 1fr auto;
    border-top: 1px solid var(--line);
    padding: 0.6rem 0;
  }
  .off p {
    color: var(--quiet);
  }
</style>
