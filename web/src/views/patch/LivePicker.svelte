<script lang="ts">
  import Amount from "../../parts/form/Amount.svelte";
  import Choice from "../../parts/form/Choice.svelte";
  import { api, type Choice as Listed, type FaceSpec } from "../../api/client";
  import { Answer } from "../../live/answer.svelte";
  import { show } from "../../live/show.svelte";

  /** Chooses a live picture: of which device, which of its pictures, how many a second. */
  let { chosen, onchoose }: { chosen: FaceSpec["live"]; onchoose: (live: FaceSpec["live"]) => void } = $props();

  let device = $state((() => chosen?.device ?? "")());
  const answer = new Answer<Listed[]>();
  const sources = $derived(answer.of(device) ?? []);
  const devices = $derived(
    (show.doc?.devices ?? []).filter((d) => ["streaming", "switcher", "camera"].includes(d.role)),
  );

  $effect(() => {
    const params = { path: { id: device } };
    if (device) void answer.ask(device, () => api.GET("/api/v1/devices/{id}/pictures", { params }));
  });
</script>

<Choice
  label="device"
  value={device}
  choices={[{ value: "", text: "no live picture" }, ...devices.map((d) => ({ value: d.id, text: d.name }))]}
  onchange={(to) => {
    device = to;
    if (!to && chosen) onchoose(undefined);
  }}
/>
{#if device}
  <Choice
    label="picture"
    value={chosen?.device === device ? chosen.source : ""}
    choices={[{ value: "", text: "choose …" }, ...sources.map((s) => ({ value: s.value, text: s.name }))]}
    error={answer.problem(device)}
    onchange={(to) => onchoose({ device, source: to, rate: chosen?.rate })}
  />
{/if}
{#if chosen}
  <Amount
    label="a second"
    min={1}
    max={25}
    placeholder="5"
    value={chosen.rate ?? null}
    onchange={(to) => onchoose({ ...chosen, rate: to ?? undefined })}
  />
{/if}
