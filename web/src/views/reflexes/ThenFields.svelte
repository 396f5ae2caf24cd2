<script lang="ts">
  import { api, type ActionDoc, type ReflexForm } from "../../api/client";
  import Act from "../../parts/form/Act.svelte";
  import FindAction, { type Offer } from "../../parts/FindAction.svelte";
  import ParamFields from "../../parts/ParamFields.svelte";
  import { Answer } from "../../live/answer.svelte";
  import { begun } from "../../live/found";

  /** What a reflex does, found as in Patch by saying it, with its parameters; those can be filled by the event. */
  let {
    then = $bindable(),
    event,
    errors,
    follows,
  }: {
    then: ReflexForm["then"];
    event: string[];
    errors: Record<string, string>;
    /** It holds something, and does not just do it. */
    follows: boolean;
  } = $props();

  let words = $state("");
  let find = $state<FindAction>();
  const answer = new Answer<ActionDoc>();
  const at = $derived(`${then.device} ${then.action}`);
  $effect(() => {
    const { device, action } = then;
    if (device && action)
      void answer.ask(at, () =>
        api.GET("/api/v1/devices/{id}/actions/{action}", { params: { path: { id: device, action } } }),
      );
  });
  const action = $derived(answer.of(at));

  async function take(o: Offer) {
    const f = o.found;
    if (!f) return;
    words = "";
    const it = await begun(f);
    if (it) then = { device: f.device, action: f.id, params: it.params };
  }
</script>

{#if then.action && action}
  <p class="row">
    <span class="bx--label">Action</span>
    <span class="spread"
      ><strong>{action.title}</strong>
      <Act
        quiet
        id="then-other"
        onclick={() => {
          then = { device: "", action: "", params: {} };
          queueMicrotask(() => find?.focus());
        }}>Another</Act
      ></span
    >
  </p>
  <ParamFields
    device={then.device}
    {action}
    bind:values={() => (then.params ?? {}) as Record<string, string>, (params) => (then = { ...then, params })}
    fields={errors}
    {event}
  />
  {#if event.length > 0 && action.params.some((p) => p.type === "text")}
    <p class="quiet bare">Texts can say what the event brings: {event.map((f) => `{event.${f}}`).join(", ")}.</p>
  {/if}
  {#if follows}<p class="quiet bare">It is held while that is so, and returns after.</p>{/if}
{:else}
  <FindAction
    bind:this={find}
    bind:words
    id="then-find"
    label="What it does"
    placeholder="What should it do? map for the audience, music -20, warn …"
    ontake={take}
  />
{/if}
{#if errors["then"] ?? errors["device"] ?? errors["action"]}
  <p class="wrong">{errors["then"] ?? errors["device"] ?? errors["action"]}</p>
{/if}
