<script lang="ts">
  import { views } from "../live/route.svelte";

  let { onclose }: { onclose: () => void } = $props();

  const rows: [string[], string][] = [
    ...views.map((v): [string[], string] => [[v.key], v.title]),
    [["A"], "What should it do? for the selected key"],
    [["←", "→", "↑", "↓"], "Move the selection on the drawing"],
    [["Enter"], "Edit the label of the selected key"],
    [["Space"], "Try the selected key, down and up"],
    [["Delete"], "Clear the selected key"],
    [["Ctrl", "Z"], "Undo"],
    [["Ctrl", "Shift", "Z"], "Do again"],
    [["B"], "Bench: the simulated devices"],
    [["Esc"], "Close what is open"],
    [["?"], "This list"],
  ];
</script>

<div class="sheet" role="dialog" aria-label="Keys">
  <header>
    <h2>Keys</h2>
    <button onclick={onclose}>Close</button>
  </header>
  <dl>
    {#each rows as [keys, text] (text)}
      <dt>
        {#each keys as k, i (i)}<kbd>{k}</kbd>
        {/each}
      </dt>
      <dd>{text}</dd>
    {/each}
  </dl>
</div>

<style>
  .sheet {
    position: absolute;
    right: 1rem;
    top: 96px;
    z-index: 50;
    background: #1c2024;
    border: 1px solid var(--line);
    border-radius: 6px;
    padding: 1rem 1.25rem;
    box-shadow: 0 8px 40px #000a;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    margin-bottom: 0.75rem;
  }
  h2 {
    font-size: 1rem;
  }
  button {
    background: none;
    border: 1px solid var(--line);
    color: inherit;
    padding: 0.2rem 0.6rem;
    border-radius: 4px;
    cursor: pointer;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0.5rem 1.25rem;
    margin: 0;
    font-size: 0.875rem;
  }
  dd {
    margin: 0;
  }
</style>
