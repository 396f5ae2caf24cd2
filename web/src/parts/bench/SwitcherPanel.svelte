<script lang="ts">
  import Front from "./Front.svelte";
  import type { FrontPanel } from "../../api/client";
  import { hand, ids } from "./operate";

  /** The front panel of the bench's switcher: what a hand on the device itself would do. */
  let { view }: { view: FrontPanel } = $props();

  let bank = $state(1);
  const v = (address: string) => view.values[address];
  const text = (address: string) => String(v(address) ?? "");
  const mix = $derived(`/mix/${bank}`);
  const inputs = $derived(ids(view, /^\/input\/(\d+)\/name$/).map(Number));
  const shown = $derived(inputs.filter((n) => v(`/input/${n}/gone`) !== 1));

  const operate = hand("switcher");
</script>

<Front
  dead={view.faults.cut}
  look="--body: linear-gradient(#5b6067, #484d54); --ink: #e8eaec; --key: #2b2e33; --key-ink: #b9bec4; --lit: #d7d9db; --lit-ink: #222"
>
  <div class="keys">
    <span class="maker">Larkfell bench switcher</span>
    <span class="banks" role="group" aria-label="Mix effect">
      {#each [1, 2] as n (n)}
        <button aria-pressed={bank === n} onclick={() => (bank = n)}>M/E {n}</button>
      {/each}
    </span>
    <span class="clients">{view.clients} connected</span>
  </div>
  <div class="rows">
    {#each [["program", "PGM"], ["preview", "PVW"]] as [bus, mark] (bus)}
      <span class="bus">{mark}</span>
      <div class="buttons" role="group" aria-label="{mark} of mix effect {bank}">
        {#each shown as n (n)}
          <button
            class="key {bus}"
            class:lit={v(`${mix}/${bus}`) === n}
            data-front="{bank}/{bus}/{n}"
            title={text(`/input/${n}/name`)}
            onclick={() => operate(`${mix}/${bus}`, n)}>{n}</button
          >
        {/each}
      </div>
    {/each}
  </div>
  <div class="keys">
    <button class="big" onclick={() => operate(`${mix}/cut`)}>CUT</button>
    <button class="big" onclick={() => operate(`${mix}/auto`)}>AUTO</button>
    <div class="lever" role="img" aria-label="Transition position">
      <i style:left="{Number(v(`${mix}/transition/position`) ?? 0) * 100}%"></i>
    </div>
    <span class="lcd">{text(`${mix}/transition/kind`)} {text(`${mix}/transition/frames`)}f</span>
  </div>
  <div class="keys">
    {#each [1, 2, 3] as k (k)}
      <button
        class="key program"
        class:lit={v(`/keyer/${k}/on`) === 1}
        onclick={() => operate(`/keyer/${k}/on`, v(`/keyer/${k}/on`) === 1 ? 0 : 1)}>{text(`/keyer/${k}/name`)}</button
      >
      <button
        class:lit={v(`/keyer/${k}/running`) === 1}
        onclick={() => operate(`/keyer/${k}/auto`, v(`/keyer/${k}/on`) === 1 ? 0 : 1)}>auto</button
      >
    {/each}
    {#each ["record", "stream"] as w (w)}
      <button class:lit={v(`/${w}/on`) === 1} onclick={() => operate(`/${w}/on`, v(`/${w}/on`) === 1 ? 0 : 1)}
        >{w}{v(`/${w}/on`) === 1 ? ` ${text(`/${w}/seconds`)} s` : ""}</button
      >
    {/each}
  </div>
  <details>
    <summary>Names of the inputs</summary>
    {#each inputs as n (n)}
      <label
        ><span class="lcd">{n}</span>
        <input
          value={text(`/input/${n}/name`)}
          aria-label="Name of input {n}"
          data-name={n}
          onchange={(e) => operate(`/input/${n}/name`, e.currentTarget.value)}
        />
        <button onclick={() => operate(`/input/${n}/gone`, v(`/input/${n}/gone`) === 1 ? 0 : 1)}
          >{v(`/input/${n}/gone`) === 1 ? "plug in" : "pull out"}</button
        ></label
      >
    {/each}
  </details>
  <details>
    <summary>Boxes and sound</summary>
    <div class="keys">
      {#each [1, 2, 3, 4] as l (l)}
        <button class:lit={v("/boxes/layout") === l} onclick={() => operate("/boxes/layout", l)}
          >{text(`/layout/${l}/name`)}</button
        >
      {/each}
    </div>
    <div class="keys">
      {#each [1, 2, 3, 4] as b (b)}
        <span class="lcd">box {b}: {text(`/input/${text(`/box/${b}/source`)}/name`)}</span>
      {/each}
    </div>
    {#each shown.slice(0, 6) as n (n)}
      <p>{text(`/input/${n}/name`)}: sound {text(`/sound/${n}/mode`)}</p>
    {/each}
  </details>
  <details>
    <summary>Outputs</summary>
    {#each [1, 2, 3] as o (o)}
      <label
        ><span class="lcd">{o}</span> <span class="grow">{text(`/out/${o}/name`)}</span>
        <select
          value={v(`/out/${o}/source`)}
          aria-label="Source of output {o}"
          onchange={(e) => operate(`/out/${o}/source`, Number(e.currentTarget.value))}
        >
          {#each shown as n (n)}<option value={n}>{n} {text(`/input/${n}/name`)}</option>{/each}
        </select></label
      >
    {/each}
  </details>
</Front>

<style>
  .maker {
    margin-right: auto;
  }
  .rows {
    display: grid;
    grid-template-columns: 2.2rem 1fr;
    gap: 0.5rem;
    align-items: center;
  }
  .buttons,
  label {
    display: flex;
    gap: 4px;
    align-items: center;
  }
  .key {
    flex: 1;
    height: 34px;
    padding: 0 2px;
    box-shadow: inset 0 -3px #1c1e21;
  }
  .key.lit {
    color: #000;
    font-weight: 600;
  }
  .key.lit.program {
    background: var(--on-air);
  }
  .key.lit.preview {
    background: var(--preview);
  }
  .keys .big {
    width: 64px;
    height: 44px;
    background: #e3e2dc;
    color: #222;
    font-weight: 600;
    box-shadow: inset 0 -3px #b4b2aa;
  }
  .lever {
    flex: 1;
    height: 10px;
    background: #1d1f22;
    border-radius: 5px;
    position: relative;
    margin: 0 0.6rem;
  }
  .lever i {
    position: absolute;
    top: -8px;
    width: 10px;
    height: 26px;
    margin-left: -5px;
    border-radius: 2px;
    background: #d7d9db;
  }
  summary {
    cursor: pointer;
    padding: 0.2rem 0;
  }
  label {
    margin: 0.25rem 0;
  }
</style>
