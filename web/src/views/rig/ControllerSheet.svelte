<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type Controller } from "../../api/client";
  import Text from "../../parts/form/Text.svelte";
  import Act from "../../parts/form/Act.svelte";
  import HandOver from "../people/HandOver.svelte";
  import { me } from "../../live/me.svelte";
  import { People } from "../../live/people.svelte";
  import Hardware from "./Hardware.svelte";
  import Light from "./Light.svelte";
  import SideSheet from "../../parts/SideSheet.svelte";
  import { said, show } from "../../live/show.svelte";

  /** One controller: where its panel is, and how other programs press its keys. */
  let { controller, onclose }: { controller: Controller; onclose: () => void } = $props();

  const people = new People(() => me.now?.claimed === true && me.now.role === "owner");
  let handing = $state(false);
  let given = $state("");
  let error = $state("");
  async function rename(name: string) {
    const params = { path: { id: controller.id } };
    const r = await api.PUT("/api/v1/controllers/{id}", { params, body: { name } });
    error = fieldsOf(r.error).name ?? "";
    if (!error) said(r);
  }

  const first = $derived(controller.controls[0]?.id ?? "a1");
</script>

<SideSheet title={controller.name} {onclose}>
  <div class="body">
    <Text id="controller-name" label="Name" value={controller.name} maxlength={300} {error} onchange={rename} />
    <p class="quiet">{controller.title}</p>
    <div class="buttons">
      <Button size="small" href="/panel/{controller.slug}" target="_blank">Open as a panel</Button>
      <Button size="small" kind="tertiary" href="/legend/{controller.slug}" target="_blank">Legend</Button>
    </div>
    {#if me.now?.claimed && me.now.role === "owner"}
      {#if handing}
        <HandOver
          {people}
          id={given}
          controller={controller.id}
          onmade={(id) => (given = id)}
          onclose={() => ([handing, given] = [false, ""])}
        />
      {:else}<Act id="hand-over" onclick={() => (handing = true)}>Hand it over to a tablet …</Act>{/if}
    {/if}
    <Hardware {controller} />
    {#if controller.links.length > 0}<Light {controller} />{/if}
    <dl>
      <dt>Panel, in any browser</dt>
      <dd class="mono">{location.origin}/panel/{controller.slug}</dd>
      <dd>
        <img
          class="qr"
          src="/api/v1/qr.svg?text={encodeURIComponent(`${location.origin}/panel/${controller.slug}`)}"
          alt="The address of the panel as a QR code"
        />
      </dd>
      <dt>A press by HTTP</dt>
      <dd class="mono">POST {location.origin}/api/v1/input/{controller.slug}/{first}/press</dd>
      <dt>A press by OSC, to {show.doc?.oscIn}</dt>
      <dd class="mono">/synaptor/{controller.slug}/{first}/press</dd>
    </dl>
    <p class="quiet">
      Every control has an address of its own: its name, such as {first}, and a gesture. They keep working when the
      controller is called something else.
    </p>
  </div>
</SideSheet>

<style>
  .qr {
    width: 8rem;
    height: 8rem;
  }
  dt {
    color: var(--quiet);
  }
  dd {
    margin: 0 0 0.6rem;
    user-select: all;
  }
</style>
