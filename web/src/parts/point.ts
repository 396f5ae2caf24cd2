/** How long a thing stays marked that somebody was led to. */
const marked = 3000;

/** Leads to a thing: it is scrolled to, has the focus where it can, and is marked for a moment. */
export function point(el: HTMLElement | null | undefined) {
  if (!el) return;
  el.scrollIntoView({ block: "center", inline: "nearest" });
  const focus = el.matches("button, a, [tabindex]") ? el : el.querySelector<HTMLElement>("button, a, [tabindex]");
  focus?.focus({ preventScroll: true });
  el.dataset.pointed = "";
  setTimeout(() => delete el.dataset.pointed, marked);
}
