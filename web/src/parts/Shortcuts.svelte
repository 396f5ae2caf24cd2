<script lang="ts">
  import Popover from "./Popover.svelte";
  import { views } from "../live/route.svelte";

  let { onclose }: { onclose: () => void } = $props();

  const rows: [string[], string][] = [
    ...views.map((v): [string[], string] => [[v.key], v.title]),
    [["A"], "What should it do? for the selected key"],
    [["←", "→", "↑", "↓"], "Move the selection on the drawing"],
    [["Enter"], "Edit the label of the selected key"],
    [["Space"], "Try the selected key, down and up"],
    [["E"], "The face and the lamps of the selected key"],
    [["N"], "Note for later on an empty key"],
    [["Shift", "arrows"], "Select more; Shift and a click does so too"],
    [["Ctrl", "A"], "Select all keys of the page"],
    [["Delete"], "Clear the selected keys"],
    [["F"], "Find a key by what it does, on any page"],
    [["P"], "New page, or several with commas between"],
    [["[", "]"], "The page before, the next page"],
    [["Z"], "Only this controller, or the whole desk"],
    [["Ctrl", "C"], "Copy the selected keys"],
    [["Ctrl", "V"], "Put the copies from the selected key on"],
    [["Ctrl", "Shift", "V"], "Put the same mapping there too: edited once"],
    [["Ctrl", "D"], "Copy the selected keys to another page"],
    [["Ctrl", "Z"], "Undo"],
    [["Ctrl", "Shift", "Z"], "Do again"],
    [["R"], "Rehearse the macro, or pause"],
    [["Alt", "↑", "↓"], "Move the step; Alt and ← → out of and into the step above"],
    [["Ctrl", "."], "Halt all runs"],
    [["B"], "Bench: the simulated devices"],
    [["Esc"], "Close what is open"],
    [["?"], "This list"],
  ];
</script>

<Popover title="Keys" {onclose}>
  <dl>
    {#each rows as [keys, text] (text)}
      <dt>
        {#each keys as k, i (i)}<kbd>{k}</kbd>
        {/each}
      </dt>
      <dd>{text}</dd>
    {/each}
  </dl>
</Popover>

<style>
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
