<script lang="ts">
  import Act from "../../parts/form/Act.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import Popover from "../../parts/Popover.svelte";
  import { show } from "../../live/show.svelte";
  import { desk, titles, type PartName } from "./desk.svelte";

  /** How whoever is here wants the Desk: theirs alone, and no edit of the show. */
  let { onclose }: { onclose: () => void } = $props();

  const at = $derived(desk.now);
  let to = $state(desk.now?.countTo ?? "");
  const sides = { right: "At the right", left: "At the left", below: "Below" };

  function put<T>(list: T[], what: T, on: boolean): T[] {
    return on ? [...list, what] : list.filter((x) => x !== what);
  }
  function move<T>(list: T[], what: T, by: number): T[] {
    const out = [...list];
    const i = out.indexOf(what);
    const to = Math.max(0, Math.min(out.length - 1, i + by));
    out.splice(to, 0, ...out.splice(i, 1));
    return out;
  }
  const sorted = <T,>(all: T[], chosen: T[]) => [...chosen, ...all.filter((x) => !chosen.includes(x))];
</script>

<Popover title="Arrange the Desk" {onclose}>
  {#if at}
    <p class="quiet">It is yours: others see the Desk as they have arranged it. Nothing of the show is changed.</p>
    <h3>Controllers</h3>
    <ul>
      {#each sorted( (show.doc?.controllers ?? []).map((c) => c.id), at.controllers ) as id (id)}
        {@const name = show.doc?.controllers.find((c) => c.id === id)?.name ?? id}
        {@const on = at.controllers.includes(id)}
        <li data-arrange={name}>
          <Tick
            label={name}
            checked={on}
            onchange={(is) => desk.arrange({ controllers: put(at.controllers, id, is) })}
          />
          {#if on}
            <Act
              quiet
              aria-label="{name} earlier"
              onclick={() => desk.arrange({ controllers: move(at.controllers, id, -1) })}>↑</Act
            ><Act
              quiet
              aria-label="{name} later"
              onclick={() => desk.arrange({ controllers: move(at.controllers, id, 1) })}>↓</Act
            >
          {/if}
        </li>
      {/each}
    </ul>
    <h3>Parts</h3>
    <ul>
      {#each sorted(at.choices.parts as PartName[], at.parts) as p (p)}
        {@const on = at.parts.includes(p)}
        <li data-arrange={p}>
          <Tick label={titles[p]} checked={on} onchange={(is) => desk.arrange({ parts: put(at.parts, p, is) })} />
          {#if on}
            <Act quiet aria-label="{titles[p]} earlier" onclick={() => desk.arrange({ parts: move(at.parts, p, -1) })}
              >↑</Act
            ><Act quiet aria-label="{titles[p]} later" onclick={() => desk.arrange({ parts: move(at.parts, p, 1) })}
              >↓</Act
            >
          {/if}
        </li>
      {/each}
    </ul>
    <Choice
      label="Where the parts are"
      choices={Object.entries(sides).map(([value, text]) => ({ value, text }))}
      value={at.side}
      onchange={(side) => desk.arrange({ side: side as typeof at.side })}
    />
    <Text
      label="Count down to"
      help="A time of day, such as 22:30; empty: nothing is counted down to."
      placeholder="22:30"
      bind:value={to}
      onchange={(countTo) => desk.arrange({ countTo: countTo.trim() })}
    />
  {/if}
</Popover>

<style>
  li {
    display: flex;
    align-items: center;
    min-height: 28px;
  }
  li > :global(:first-child) {
    flex: 1;
  }
</style>
