<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api } from "../../api/client";
  import { first } from "../../live/first.svelte";
  import { route } from "../../live/route.svelte";
  import { said, show } from "../../live/show.svelte";

  /** What an empty show begins with: three ways in. */
  let { onarchive }: { onarchive: () => void } = $props();

  let busy = $state(false);

  /** Adds the demo as a show of its own, and opens it: nothing goes on in an empty show. */
  async function demo() {
    busy = true;
    const made = await api.POST("/api/v1/demo");
    if (said(made) && made.data) {
      const params = { path: { id: made.data.id } };
      const r = await api.POST("/api/v1/shows/{id}/open", { params, body: { sure: true } });
      if (said(r, "The demo show is open. Your own, empty one is in the list of shows.")) {
        await show.load();
        route.go("/patch");
      }
    }
    busy = false;
  }

  function own() {
    first.begin();
    route.go("/rig");
  }
</script>

<div class="start">
  <h1>This show is empty</h1>
  <ul>
    <li>
      <h2>Try it with simulated devices</h2>
      <p>
        A show with a switcher, sound, lights and cameras that run in here. Nothing real is touched, and it is a show of
        its own.
      </p>
      <Button id="start-demo" kind="tertiary" disabled={busy} on:click={demo}
        >{busy ? "Starting …" : "Open the demo"}</Button
      >
    </li>
    <li>
      <h2>Start my own</h2>
      <p>A device first, by what it is and its address; then a controller; then press the first key.</p>
      <Button id="start-own" on:click={own}>Start</Button>
    </li>
    <li>
      <h2>Open an archive</h2>
      <p>A show from another computer, or a copy that was kept. What is in it is told before anything is done.</p>
      <Button id="start-archive" kind="tertiary" on:click={onarchive}>Choose an archive</Button>
    </li>
  </ul>
</div>

<style>
  .start {
    padding: 3rem 2rem;
    max-width: 62rem;
    margin: 0 auto;
  }
  h1 {
    font-size: 1.5rem;
    margin-bottom: 1.5rem;
  }
  ul {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(15rem, 1fr));
    gap: 1.25rem;
  }
  li {
    display: grid;
    grid-template-rows: auto 1fr auto;
    gap: 0.75rem;
    justify-items: start;
    padding: 1.25rem;
    background: var(--plate);
    border: 1px solid var(--line);
    border-radius: 8px;
    font-size: 0.875rem;
    line-height: 1.4;
  }
</style>
