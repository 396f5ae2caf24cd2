<script lang="ts">
  import { Toggle } from "carbon-components-svelte";
  import Popover from "./Popover.svelte";
  import { keys } from "../live/keys.svelte";
  import { theme } from "../live/theme.svelte";
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
    [["Shift", "Z"], "The desk at reading size, or fitted to the window"],
    [["Ctrl", "C"], "Copy the selected keys"],
    [["Ctrl", "V"], "Put the copies from the selected key on"],
    [["Ctrl", "Shift", "V"], "Put the same mapping there too: edited once"],
    [["Ctrl", "D"], "Copy the selected keys to another page"],
    [["Ctrl", "Z"], "Undo"],
    [["Ctrl", "Shift", "Z"], "Do again"],
    [["R"], "Rehearse the macro, or pause"],
    [["Alt", "↑", "↓"], "Move the step; Alt and ← → out of and into the step above"],
    [["Ctrl", "."], "Halt all runs"],
    [["L"], "Lock edits for me, or take them again"],
    [["B"], "Bench: the simulated devices"],
    [["Esc"], "Close what is open"],
    [["?"], "This list; and a click explains, until it is closed"],
  ];
</script>

<Popover title="Keys and looks" wide {onclose}>
  <p class="ask">
    Click any key or part to have it explained, or go to it with Tab and press Enter. Nothing is pressed meanwhile.
  </p>
  <div class="buttons">
    <Toggle
      size="sm"
      labelText="Single keys: letters, digits and signs"
      labelA="off"
      labelB="on"
      toggled={keys.on}
      on:toggle={(e) => keys.set(e.detail.toggled)}
    />
    <Toggle
      size="sm"
      id="daylight"
      labelText="Light, for rooms by day; faces stay dark"
      labelA="off"
      labelB="on"
      toggled={theme.light}
      on:toggle={(e) => theme.set(e.detail.toggled)}
    />
  </div>
  <dl>
    {#each rows as [strokes, text] (text)}
      <dt>
        {#each strokes as k, i (i)}<kbd>{k}</kbd>
        {/each}
      </dt>
      <dd>{text}</dd>
    {/each}
  </dl>
</Popover>

<style>
  dl {
    display: grid;
    grid-template-columns: auto 1fr auto 1fr;
    gap: 0.45rem 1.25rem;
    line-height: 1.5;
    padding-block: 2px;
    font-size: 0.8125rem;
    margin: 0.75rem 0 0;
    overflow: auto;
  }
</style>
