<script lang="ts">
  import { api, type ActionDoc } from "../api/client";
  import Act from "./form/Act.svelte";
  import Choice from "./form/Choice.svelte";
  import Text from "./form/Text.svelte";
  import { Answer } from "../live/answer.svelte";

  /** The parameters of an action of a device; choices that depend on others follow them. */
  let {
    device,
    action,
    values = $bindable(),
    fields = {},
    event = [],
    pressed = false,
  }: {
    device: string;
    action: ActionDoc;
    values: Record<string, string>;
    fields?: Record<string, string>;
    /** The fields of an event that may fill them. */
    event?: string[];
    /** Whether a press sets it off: then texts may be typed at it. */
    pressed?: boolean;
  } = $props();

  const typed = "{event.typed}";
  const answer = new Answer<ActionDoc>();
  const at = $derived(`${device} ${action.id}`);
  const params = $derived((answer.of(at) ?? action).params);

  async function change(id: string, value: string) {
    values[id] = value;
    if (action.params.filter((p) => p.type === "choice").length < 2) return;
    const params = { path: { id: device, action: action.id }, query: { values: JSON.stringify(values) } };
    await answer.ask(at, () => api.GET("/api/v1/devices/{id}/actions/{action}", { params }));
  }
</script>

{#each params as p (p.id)}
  {@const value = values[p.id] ?? ""}
  {#if p.choices.length > 0}
    <Choice
      label={p.title}
      {value}
      data-param={p.id}
      error={fields[`params.${p.id}`]}
      choices={[
        ...(value
          ? p.choices.some((c) => c.value === value) || event.some((f) => value === `{event.${f}}`)
            ? []
            : [{ value, text: `${value} (not there)` }]
          : [{ value: "", text: "choose …" }]),
        ...p.choices.map((c) => ({ value: c.value, text: c.gone ? `${c.name} (gone)` : c.name })),
        ...event.map((f) => ({ value: `{event.${f}}`, text: `by ${f}`, group: "By the event" })),
      ]}
      onchange={(to) => change(p.id, to)}
    />
  {:else}
    <Text
      label={p.title}
      {value}
      unit={p.unit}
      inputmode={["text", "message"].includes(p.type) ? "text" : "numeric"}
      data-param={p.id}
      error={fields[`params.${p.id}`]}
      help={value.includes(typed) ? "It is typed when the key is pressed, on a panel or on the Desk." : ""}
      oninput={(to) => change(p.id, to)}
    />
    {#if pressed && p.type === "text" && !value.includes(typed)}
      <Act onclick={() => change(p.id, typed)}>Ask for it at the press</Act>
    {/if}
  {/if}
{/each}
