<script lang="ts">
  import { focus } from "../../parts/focus";
  import { Button } from "carbon-components-svelte";
  import { api, type Controller } from "../../api/client";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { said, show } from "../../live/show.svelte";

  /** The profiles of the show, and which one is in force on which controller. */
  let { controller, profile, onclose }: { controller: Controller; profile: string; onclose: () => void } = $props();

  let name = $state("");
  /** The profile that is being renamed. */
  let renaming = $state<{ id: string; name: string } | undefined>();

  const profiles = $derived(show.doc?.profiles ?? []);
  const controllers = $derived(show.doc?.controllers ?? []);
  const inForce = (c: Controller) => show.shown(c.id)?.profile ?? c.profile;
  const at = (id: string) => ({ params: { path: { id } } });

  async function add() {
    if (said(await api.POST("/api/v1/profiles", { body: { name } }))) name = "";
  }

  async function rename() {
    if (!renaming) return;
    if (said(await api.PUT("/api/v1/profiles/{id}", { ...at(renaming.id), body: { name: renaming.name } })))
      renaming = undefined;
  }

  async function use(c: Controller, id: string) {
    said(await api.PUT("/api/v1/controllers/{id}/profile", { ...at(c.id), body: { profile: id } }));
  }

  async function useEverywhere(id: string) {
    for (const c of controllers) if (inForce(c) !== id) await use(c, id);
  }
</script>

<SideSheet title="Profiles" {onclose}>
  <div class="body fields">
    <p class="quiet">A profile is a set of pages for one job. Each controller has one in force.</p>
    {#each profiles as p, i (p.id)}
      <section class:now={p.id === profile}>
        {#if renaming?.id === p.id}
          <form
            onsubmit={(e) => {
              e.preventDefault();
              void rename();
            }}
          >
            <input
              use:focus
              maxlength="60"
              aria-label="Name of the profile"
              bind:value={renaming.name}
              onkeydown={(e) => e.key === "Escape" && (e.stopPropagation(), e.preventDefault(), (renaming = undefined))}
            />
            <Button size="small" type="submit">Rename</Button>
          </form>
        {:else}
          <h3>{p.name}</h3>
        {/if}
        <p class="quiet">
          {(show.doc?.pages ?? []).filter((o) => o.profile === p.id).length} pages; in force on {controllers
            .filter((c) => inForce(c) === p.id)
            .map((c) => c.name)
            .join(", ") || "no controller"}
        </p>
        <p class="do">
          {#if inForce(controller) !== p.id}
            <button class="plain" onclick={() => use(controller, p.id)}>Use on {controller.name}</button>
          {/if}
          {#if controllers.some((c) => inForce(c) !== p.id)}
            <button class="plain" onclick={() => useEverywhere(p.id)}>Use on all</button>
          {/if}
          {#if controller.profile !== p.id}
            <button
              class="plain"
              onclick={async () =>
                said(
                  await api.PUT("/api/v1/controllers/{id}/profile", {
                    ...at(controller.id),
                    body: { profile: p.id, start: true },
                  }),
                  `${controller.name} begins with ${p.name}.`,
                )}>Begin with it</button
            >
          {/if}
          <button class="plain" onclick={() => (renaming = { id: p.id, name: p.name })}>Rename</button>
          <button class="plain" onclick={async () => said(await api.POST("/api/v1/profiles/{id}/duplicate", at(p.id)))}
            >Duplicate</button
          >
          {#if i > 0}
            <button
              class="plain"
              onclick={async () =>
                said(await api.PUT("/api/v1/profiles/{id}", { ...at(p.id), body: { position: i - 1 } }))}
              >Earlier</button
            >
          {/if}
          <a class="plain" href="/api/v1/pages/all/print.svg?profile={p.id}" target="_blank" rel="noreferrer"
            >Print all pages</a
          >
          <a
            class="plain"
            href="/api/v1/pages/all/print.svg?profile={p.id}&what=gestures"
            target="_blank"
            rel="noreferrer">Print all gestures</a
          >
          {#if profiles.length > 1}
            <button
              class="plain"
              onclick={async () =>
                said(
                  await api.DELETE("/api/v1/profiles/{id}", at(p.id)),
                  `${p.name} is deleted with its pages. Ctrl+Z brings it back.`,
                )}>Delete</button
            >
          {/if}
        </p>
      </section>
    {/each}
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <input maxlength="60" placeholder="Name of a new profile" aria-label="Name of a new profile" bind:value={name} />
      <Button size="small" type="submit" disabled={!name.trim()}>Add</Button>
    </form>
  </div>
</SideSheet>

<style>
  .body {
    padding: 0.5rem 1rem 1rem;
    display: grid;
    gap: 1rem;
  }
  section {
    border-left: 3px solid transparent;
    padding-left: 0.75rem;
    display: grid;
    gap: 0.25rem;
  }
  .now {
    border-color: var(--select);
  }
  h3 {
    font-size: 0.9375rem;
    overflow-wrap: anywhere;
  }
  .do {
    display: flex;
    flex-wrap: wrap;
    gap: 0.3rem 0.9rem;
  }
  form {
    display: flex;
    gap: 0.5rem;
  }
  input {
    flex: 1;
  }
</style>
