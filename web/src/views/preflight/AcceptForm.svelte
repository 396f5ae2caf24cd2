<script lang="ts">
  import { Button } from "carbon-components-svelte";
  import { api, fieldsOf, type WeighedFinding } from "../../api/client";
  import Text from "../../parts/form/Text.svelte";
  import { holdsFocus } from "../../parts/focus";
  import { said } from "../../live/show.svelte";

  /** Why a finding is to count no more. */
  let { f, ondone }: { f: WeighedFinding; ondone: () => unknown } = $props();

  let reason = $state("");
  let wrong = $state<Record<string, string>>({});
  async function accept(e: SubmitEvent) {
    e.preventDefault();
    const r = await api.POST("/api/v1/preflight/accepted", {
      body: { id: f.id, subject: f.subject, at: f.at ?? "", imprint: f.imprint, reason },
    });
    wrong = fieldsOf(r.error);
    if (Object.keys(wrong).length === 0 && said(r, "Accepted. It comes back when what it is about changes."))
      await ondone();
  }
</script>

<form onsubmit={accept} {@attach holdsFocus}>
  <Text
    label="Why this is all right"
    bind:value={reason}
    error={wrong.reason}
    maxlength={300}
    help="It counts again once what it is about changes."
  />
  <Button size="small" type="submit">Accept it</Button>
</form>

<style>
  form {
    grid-column: 1 / -1;
    display: flex;
    gap: 0.8rem;
    align-items: end;
    padding: 0.6rem 0;
  }
</style>
