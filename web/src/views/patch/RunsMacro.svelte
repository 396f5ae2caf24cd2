<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Colour from "../../parts/form/Colour.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { api, type Mapping, type Path } from "../../api/client";
  import { route } from "../../live/route.svelte";
  import { said } from "../../live/show.svelte";
  import { time } from "../macros/macro.svelte";

  /** The macro that a key runs, in short, and what the key shows of it. */
  let { mapping, macro }: { mapping: Mapping; macro: NonNullable<Path["does"][number]["macro"]> } = $props();

  async function set(to: { branches?: NonNullable<Mapping["branches"]>; next?: boolean; quiet?: boolean }) {
    return said(
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

<div class="runs rows">
  <p>
    <Act onclick={() => route.go(`/macros/${macro.id}`)}>Open {macro.name}</Act>
    <span class="mono">{macro.open ? "≥ " : ""}{time(macro.lengthMs)}</span>
  </p>
  {#if macro.problem}<p class="wrong">{macro.problem}</p>{/if}
  <ol>
    {#each macro.lines.slice(0, 8) as l, i (i)}
      <li class="cut" style:padding-left="{l.depth * 0.7}rem" style:--role="var(--role-{l.role || 'other'})">
        {l.title}
      </li>
    {/each}
    {#if macro.lines.length > 8}<li class="quiet">and {macro.lines.length - 8} more</li>{/if}
  </ol>
  {#if macro.branches.length > 0}
    <Choice
      hideLabel
      label="Which branch the key shows"
      value={mapping.next ? "next" : "now"}
      choices={[
        { value: "now", text: "shows the branch in force" },
        { value: "next", text: "shows what the next press does" },
      ]}
      onchange={(to) => set({ next: to === "next" })}
    />
    {#each macro.branches as b (b.id)}
      <div class="branch">
        <Text
          label={b.name}
          value={mapping.branches?.[b.id]?.label ?? ""}
          placeholder={b.name}
          onchange={(label) => look(b.id, { label })}
        />
        <Colour
          label="Background while {b.name}"
          value={mapping.branches?.[b.id]?.background ?? "#2b2b2b"}
          onchange={(background) => look(b.id, { background })}
        />
      </div>
    {/each}
  {/if}
  <Tick label="shows how it goes on" checked={!mapping.quiet} onchange={(to) => set({ quiet: !to })} />
</div>

<style>
  .runs {
    margin: 0.3rem 0;
  }
  li {
    border-left: 3px solid var(--role);
    padding-left: 0.5rem;
    margin-bottom: 1px;
    font-family: var(--condensed);
  }
  .branch {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0.4rem;
    align-items: center;
  }
</style>
