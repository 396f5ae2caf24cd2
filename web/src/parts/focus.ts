const fields = "input:not([type=hidden], [type=file], :disabled), select:not(:disabled), textarea:not(:disabled)";
const others = "a[href], button:not(:disabled), [tabindex]:not([tabindex='-1'])";

/** For what has just appeared: its first field has the focus, with its text selected, or what can be pressed where it has none. */
export function focusFirst(e: HTMLElement) {
  const first = e.querySelector<HTMLElement>(fields) ?? e.querySelector<HTMLElement>(others);
  first?.focus();
  if (first instanceof HTMLInputElement) first.select();
}

/**
 * For what opens over a view: it takes the focus, at its first field where it has one, and gives it back to what had it
 * when it closes. A field that comes later, with what is loaded, has the focus then, unless somebody has moved it.
 */
export function holdsFocus(e: HTMLElement) {
  const before = document.activeElement as HTMLElement | null;
  e.tabIndex = -1;
  const first = () =>
    e.querySelector<HTMLElement>(fields) ?? e.querySelector<HTMLElement>(`:scope > :not(header) :is(${others})`);
  (first() ?? e).focus();
  const later = new MutationObserver(() => {
    if (document.activeElement !== e) later.disconnect();
    else first()?.focus();
  });
  later.observe(e, { childList: true, subtree: true });
  return () => {
    later.disconnect();
    const lost =
      !document.activeElement || document.activeElement === document.body || e.contains(document.activeElement);
    if (lost && before?.isConnected) before.focus();
  };
}
