/** A document that was read again, with every part of it that is as it was kept as the same object: so nothing that shows such a part begins anew. */
export function shared<T>(was: unknown, now: T): T {
  if (Object.is(was, now) || typeof was !== "object" || typeof now !== "object" || !was || !now) return now;
  if (Array.isArray(was) !== Array.isArray(now)) return now;
  const old = was as Record<string, unknown>;
  const fresh = now as Record<string, unknown>;
  const byID = Array.isArray(was) && identified(was) ? new Map(was.map((o) => [o.id, o])) : undefined;
  let same = Object.keys(old).length === Object.keys(fresh).length;
  for (const key of Object.keys(fresh)) {
    const value = fresh[key];
    const before = byID ? byID.get((value as { id: string } | null)?.id ?? "") : old[key];
    fresh[key] = shared(before, value);
    same &&= Object.is(fresh[key], old[key]);
  }
  return same ? (was as T) : now;
}

/** Whether the things of a list have ids: then one that has another place is still the same. */
function identified(list: unknown[]): list is { id: string }[] {
  return list.length > 0 && list.every((o) => typeof (o as { id?: unknown } | null)?.id === "string");
}
