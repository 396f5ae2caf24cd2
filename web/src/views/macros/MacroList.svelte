<script lang="ts">
  import None from "../../parts/form/None.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import { Button } from "carbon-components-svelte";
  import { api, type Findings } from "../../api/client";
  import { feed } from "../../live/feed.svelte";
  import { route } from "../../live/route.svelte";
  import { said } from "../../live/show.svelte";
  import { focusFirst } from "../../parts/focus";
  import { macro, time } from "./macro.svelte";

  let { open }: { open: string } = $props();

  let naming = $state(false);
  let name = $state("");
  const findings = $derived((feed.values.get("findings") as Findings | undefined)?.macros ?? {});
  const groups = $derived.by(() => {
    const out: { title: string; rows: typeof macro.rows }[] = [];
    for (const m of macro.rows) {
      const title = m.group ?? "";
      const there = out.find((g) => g.title === title);
      if (there) there.rows.push(m);
      else out.push({ title, rows: [m] });
    }
    return out;
  });

  export function begin() {
    naming = true;
    name = "";
  }

  async function add() {
    const r = await api.POST("/api/v1/macros", { body: { name } });
    if (!said(r)) return;
    naming = false;
    await macro.list();
    route.go(`/macros/${r.data?.id}`);
  }

  function walk(e: KeyboardEvent) {
    if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
    e.preventDefault();
    const all = groups.flatMap((g) => g.rows);
    const at = all.findIndex((m) => m.id === open);
    const to = all[Math.max(0, Math.min(all.length - 1, at + (e.key === "ArrowDown" ? 1 : -1)))];
    if (!to) return;
    route.go(`/macros/${to.id}`);
    document.querySelector<HTMLElement>(`[data-macro="${to.id}"]`)?.focus();
  }
</script>

<nav data-help="parts/macros" aria-label="Macros">
  <header>
    <h2>Macros</h2>
    <Button kind="ghost" size="small" id="new-macro" on:click={begin}>New (N)</Button>
  </header>
  {#if naming}
    <form
      {@attach focusFirst}
      onsubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Text
        hideLabel
        bind:value={name}
        label="Name of the new macro"
        placeholder="What is it called?"
        onkeydown={(e) => e.key === "Escape" && (e.stopPropagation(), (naming = false))}
      />
    </form>
  {/if}
  <ul>
    {#each groups as g (g.title)}
      {#if g.title}<li class="group">{g.title}</li>{/if}
      {#each g.rows as m (m.id)}
        <li>
          <a
            href="/macros/{m.id}"
            data-macro={m.id}
            aria-current={m.id === open ? "true" : undefined}
            tabindex={m.id === open || !open ? 0 : -1}
            onkeydown={walk}
            onclick={(e) => {
              e.preventDefault();
              route.go(`/macros/${m.id}`);
            }}
          >
            <span class="name">{m.name}</span>
            {#if findings[m.id]}<span class="found" title="{findings[m.id]} findings">{findings[m.id]}</span>{/if}
            <span class="sub">
              {#if m.steps === 0}empty{:else}<span class="mono">{m.open ? "≥ " : ""}{time(m.lengthMs)}</span>{/if}
              · {m.uses.length === 0 ? "on no key" : m.uses.length === 1 ? "on 1 key" : `on ${m.uses.length} keys`}
              {#if m.unsent > 0}· <b>{m.unsent} cannot be sent</b>{/if}
            </span>
          </a>
        </li>
      {/each}
    {/each}
  </ul>
  {#if macro.rows.length === 0 && !naming}
    <div class="empty">
      <None waits={!macro.loaded}>No macro yet. <Act onclick={begin}>Name the first</Act>.</None>
    </div>
  {/if}
</nav>

<style>
  nav {
    border-right: 1px solid var(--line);
    overflow: auto;
    min-height: 0;
    background: var(--sheet);
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    padding: 0.4rem 0.2rem 0.2rem 1rem;
  }
  form {
    padding: 0.2rem 1rem 0.6rem;
  }
  .group {
    padding: 0.7rem 1rem 0.2rem;
    font-size: 0.75rem;
    color: var(--quiet);
  }
  a {
    display: grid;
    grid-template-columns: 1fr auto;
    padding: 0.4rem 1rem;
    color: inherit;
    text-decoration: none;
  }
  a:hover {
    background: var(--menu);
  }
  a[aria-current] {
    background: var(--hover);
    box-shadow: inset 3px 0 var(--select);
  }
  .name {
    font-size: 0.875rem;
    display: -webkit-box;
    -webkit-box-orient: vertical;
    -webkit-line-clamp: 2;
    line-clamp: 2;
    overflow: hidden;
    overflow-wrap: anywhere;
  }
  .found {
    background: var(--finding);
    color: var(--on-alarm);
    border-radius: 8px;
    font-size: 0.75rem;
    font-weight: 600;
    min-width: 18px;
    height: 18px;
    text-align: center;
    align-self: center;
  }
  .sub {
    grid-column: 1 / -1;
    font-size: 0.75rem;
    color: var(--quiet);
  }
  .empty {
    padding: 0.5rem 1rem;
    font-size: 0.8125rem;
  }
</style>
