<script lang="ts">
  import { api, fieldsOf, type Who } from "../../api/client";
  import Text from "../../parts/form/Text.svelte";
  import Tick from "../../parts/form/Tick.svelte";
  import { said, show } from "../../live/show.svelte";

  /** What an operator may press and change: everything, or what is named. */
  let { who, onset }: { who: Who; onset: () => unknown } = $props();

  const controllers = $derived(who.rights?.controllers ?? undefined);
  const changes = $derived(who.rights?.changes ?? undefined);
  let error = $state("");

  async function set(to: { controllers: string[] | undefined; changes: string[] | undefined }) {
    const body = { controllers: to.controllers ?? null, changes: to.changes ?? null };
    const r = await api.PUT("/api/v1/people/{id}/rights", { params: { path: { id: who.id } }, body });
    error = fieldsOf(r.error)["changes"] ?? "";
    if (!error) said(r);
    await onset();
  }
  const ticked = (id: string, on: boolean) =>
    on ? [...(controllers ?? []), id] : (controllers ?? []).filter((c) => c !== id);
</script>

<Tick
  label="Presses all controllers"
  data-all-controllers={who.name}
  checked={controllers === undefined}
  onchange={(all) => set({ controllers: all ? undefined : [], changes })}
/>
{#if controllers !== undefined}
  <div class="each">
    {#each show.doc?.controllers ?? [] as c (c.id)}
      <Tick
        label={c.name}
        checked={controllers.includes(c.id)}
        onchange={(on) => set({ controllers: ticked(c.id, on), changes })}
      />
    {/each}
  </div>
{/if}
<Tick
  label="Changes everything that its controllers do"
  data-all-changes={who.name}
  checked={changes === undefined}
  onchange={(all) => set({ controllers, changes: all ? undefined : [] })}
/>
{#if changes !== undefined}
  <Text
    label="Changes only"
    lines={3}
    data-changes={who.name}
    value={changes.join("\n")}
    help="A line each: device:path, where * stands for a part, and at the end for all that follow. dome-switcher:mix/2/*"
    {error}
    onchange={(text) => set({ controllers, changes: text.split(/\s+/).filter(Boolean) })}
  />
{/if}

<style>
  .each {
    padding-left: 1.5rem;
  }
</style>
