<script lang="ts">
  import { api, type Mapping, type Path } from "../../api/client";
  import { route } from "../../live/route.svelte";
  import { said } from "../../live/show.svelte";
  import { time } from "../macros/macro.svelte";

  /** The macro that a key runs, in short, and what the key shows of it. */
  let { mapping, macro }: { mapping: Mapping; macro: NonNullable<Path["does"][number]["macro"]> } = $props();

  async function set(to: { branches?: NonNullable<Mapping["branches"]>; next?: boolean; quiet?: boolean }) {
    said(
      await api.PUT("/api/v1/mappings/{id}", {
        params: { path: { id: mapping.id } },
        body: { rev: mapping.rev, name: mapping.name ?? "", face: mapping.face, ...to },
      }),
    );
  }

  function look(id: string, change: { label?: string; background?: string }) {
    const branches = { ...mapping.branches };
    branches[id] = { ...branches[id], ...change };
    if (!branches[id]?.label) delete branches[id]?.label;
    void set({ branches });
  }
</script>

<div class="runs">
  <p>
    <button class="plain" onclick={() => route.go(`/macros/${macro.id}`)}>Open {macro.name}</button>
    <span class="mono">{macro.open ? "≥ " : ""}{time(macro.lengthMs)}</span>
  </p>
  {#if macro.problem}<p class="wrong">{macro.problem}</p>{/if}
  <ol>
    {#each macro.lines.slice(0, 8) as l, i (i)}
      <li style:padding-left="{l.depth * 0.7}rem" style:--role="var(--role-{l.role || 'other'})">{l.title}</li>
    {/each}
    {#if macro.lines.length > 8}<li class="quiet">and {macro.lines.length - 8} more</li>{/if}
  </ol>
  {#if macro.branches.length > 0}
    <div class="fields branches">
      <select
        aria-label="Which branch the key shows"
        value={mapping.next ? "next" : "now"}
        onchange={(e) => set({ next: e.currentTarget.value === "next" })}
      >
        <option value="now">shows the branch in force</option>
        <option value="next">shows what the next press does</option>
      </select>
      {#each macro.branches as b (b.id)}
        <label
          ><span>{b.name}</span>
          <input
            value={mapping.branches?.[b.id]?.label ?? ""}
            placeholder={b.name}
            aria-label="Label while {b.name}"
            onchange={(e) => look(b.id, { label: e.currentTarget.value })}
          />
          <input
            type="color"
            aria-label="Background while {b.name}"
            value={mapping.branches?.[b.id]?.background ?? "#2b2b2b"}
            onchange={(e) => look(b.id, { background: e.currentTarget.value })}
          /></label
        >
      {/each}
    </div>
  {/if}
  <label class="tick"
    ><input type="checkbox" checked={!mapping.quiet} onchange={(e) => set({ quiet: !e.currentTarget.checked })} /> shows how
    it goes on</label
  >
</div>

<style>
  .runs {
    display: grid;
    gap: 0.3rem;
    margin: 0.3rem 0;
  }
  li {
    border-left: 3px solid var(--role);
    padding-left: 0.5rem;
    margin-bottom: 1px;
    font-family: var(--condensed);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .branches {
    display: grid;
    gap: 0.25rem;
  }
  .branches label {
    display: grid;
    grid-template-columns: 5rem 1fr auto;
    gap: 0.4rem;
    align-items: center;
    color: var(--quiet);
  }
  .tick {
    color: var(--quiet);
    display: flex;
    gap: 0.4rem;
  }
  .wrong {
    color: var(--finding);
  }
</style>
