<script lang="ts">
  import { api, type ActionDoc } from "../api/client";
  import { Answer } from "../live/answer.svelte";

  /** The parameters of an action of a device; choices that depend on others follow them. */
  let {
    device,
    action,
    values = $bindable(),
    fields = {},
  }: { device: string; action: ActionDoc; values: Record<string, string>; fields?: Record<string, string> } = $props();

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
  <label
    ><span>{p.title}</span>
    {#if p.choices.length > 0}
      <select value={values[p.id] ?? ""} data-param={p.id} onchange={(e) => change(p.id, e.currentTarget.value)}>
        {#if !values[p.id]}<option value="">choose …</option>
        {:else if !p.choices.some((c) => c.value === values[p.id])}<option value={values[p.id]}
            >{values[p.id]} (not there)</option
          >{/if}
        {#each p.choices as c (c.value)}<option value={c.value}>{c.name}{c.gone ? " (gone)" : ""}</option>{/each}
      </select>
    {:else}
      <span class="typed">
        <input
          value={values[p.id] ?? ""}
          inputmode={["text", "message"].includes(p.type) ? "text" : "numeric"}
          data-param={p.id}
          oninput={(e) => change(p.id, e.currentTarget.value)}
        />
        {#if p.unit}<i>{p.unit}</i>{/if}
      </span>
    {/if}
  </label>
  {#if fields[`params.${p.id}`]}<p class="wrong">{fields[`params.${p.id}`]}</p>{/if}
{/each}

<style>
  label {
    display: grid;
    grid-template-columns: minmax(5rem, auto) 1fr;
    align-items: center;
    gap: 0.5rem;
    color: var(--quiet);
  }
  .typed {
    display: flex;
    gap: 0.4rem;
    align-items: center;
    min-width: 0;
  }
  i {
    font-style: normal;
  }
  p {
    margin: 0 0 0.3rem;
    font-size: inherit;
    color: var(--finding);
  }
  input,
  select {
    background: #262b31;
    border: 0;
    border-bottom: 1px solid #5b636d;
    color: var(--text);
    height: 28px;
    padding: 0 0.4rem;
    font: inherit;
    min-width: 0;
    width: 100%;
  }
</style>
