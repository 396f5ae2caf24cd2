<script lang="ts">
  import Text from "../../parts/form/Text.svelte";
  import { focusFirst } from "../../parts/focus";
  import { Button, OverflowMenu, OverflowMenuItem } from "carbon-components-svelte";
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

  async function beginWith(id: string, name: string) {
    const r = await api.PUT("/api/v1/controllers/{id}/profile", {
      ...at(controller.id),
      body: { profile: id, start: true },
    });
    said(r, `${controller.name} begins with ${name}.`);
  }

  async function remove(id: string, name: string) {
    said(
      await api.DELETE("/api/v1/profiles/{id}", at(id)),
      `${name} is deleted with its pages. Ctrl+Z brings it back.`,
    );
  }

  async function useEverywhere(id: string) {
    for (const c of controllers) if (inForce(c) !== id) await use(c, id);
  }
</script>

<SideSheet title="Profiles" {onclose}>
  <div class="body">
    <p class="quiet">A profile is a set of pages for one job. Each controller has one in force.</p>
    <ul>
      {#each profiles as p, i (p.id)}
        <li class:now={p.id === profile} data-profile={p.name}>
          {#if renaming?.id === p.id}
            <form
              {@attach focusFirst}
              onsubmit={(e) => {
                e.preventDefault();
                void rename();
              }}
            >
              <Text
                hideLabel
                maxlength={60}
                label="Name of the profile"
                bind:value={renaming.name}
                onkeydown={(e) =>
                  e.key === "Escape" && (e.stopPropagation(), e.preventDefault(), (renaming = undefined))}
              />
              <Button size="small" type="submit">Rename</Button>
            </form>
          {:else}
            <h3>{p.name}</h3>
            <OverflowMenu size="sm" flipped iconDescription="More of {p.name}">
              {#if controllers.some((c) => inForce(c) !== p.id)}
                <OverflowMenuItem text="Use on all" on:click={() => useEverywhere(p.id)} />
              {/if}
              {#if controller.profile !== p.id}
                <OverflowMenuItem text="Begin with it" on:click={() => beginWith(p.id, p.name)} />
              {/if}
              <OverflowMenuItem text="Rename" on:click={() => (renaming = { id: p.id, name: p.name })} />
              <OverflowMenuItem
                text="Duplicate"
                on:click={async () => said(await api.POST("/api/v1/profiles/{id}/duplicate", at(p.id)))}
              />
              {#if i > 0}
                <OverflowMenuItem
                  text="Earlier"
                  on:click={async () =>
                    said(await api.PUT("/api/v1/profiles/{id}", { ...at(p.id), body: { position: i - 1 } }))}
                />
              {/if}
              <OverflowMenuItem
                text="Print all pages"
                href="/api/v1/pages/all/print.svg?profile={p.id}"
                target="_blank"
              />
              <OverflowMenuItem
                text="Print all gestures"
                href="/api/v1/pages/all/print.svg?profile={p.id}&what=gestures"
                target="_blank"
              />
              {#if profiles.length > 1}
                <OverflowMenuItem danger text="Delete" on:click={() => remove(p.id, p.name)} />
              {/if}
            </OverflowMenu>
          {/if}
          <p class="quiet">
            {(show.doc?.pages ?? []).filter((o) => o.profile === p.id).length} pages; in force on {controllers
              .filter((c) => inForce(c) === p.id)
              .map((c) => c.name)
              .join(", ") || "no controller"}
          </p>
          {#if inForce(controller) !== p.id}
            <Button size="small" kind="tertiary" on:click={() => use(controller, p.id)}>Use on {controller.name}</Button
            >
          {/if}
        </li>
      {/each}
    </ul>
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Text
        hideLabel
        maxlength={60}
        placeholder="Name of a new profile"
        label="Name of a new profile"
        bind:value={name}
      />
      <Button size="small" type="submit" disabled={!name.trim()}>Add</Button>
    </form>
  </div>
</SideSheet>

<style>
  li {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 0.25rem 0.5rem;
    align-items: center;
    justify-items: start;
    border-left: 3px solid transparent;
    border-top: 1px solid var(--line);
    padding: 0.5rem 0 0.6rem 0.75rem;
  }
  li > :not(h3, :global(.bx--overflow-menu)) {
    grid-column: 1 / -1;
  }
  .now {
    border-left-color: var(--select);
  }
  h3 {
    font-size: 0.9375rem;
  }
  form {
    display: flex;
    gap: 0.5rem;
    justify-self: stretch;
  }
</style>
