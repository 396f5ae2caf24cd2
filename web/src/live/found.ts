import { api, type FindResult } from "../api/client";
import { said } from "./show.svelte";

/**
 * An action that was found, and the parameters it begins with: its usual ones, and what the words said. Undefined, once why was said, where it cannot be
 * read; undefined too, and nothing is said, where it is wanted no more when the answer comes.
 */
export async function begun(found: FindResult, wanted = () => true) {
  const { data, error } = await api.GET("/api/v1/devices/{id}/actions/{action}", {
    params: { path: { id: found.device, action: found.id } },
  });
  if (!wanted() || !said({ error }) || !data) return undefined;
  const usual = Object.fromEntries(data.params.map((p) => [p.id, p.value]));
  return { action: data, params: { ...usual, ...found.params } };
}
