/** Gives the focus to what has just appeared; autofocus alone only does so when nothing has it. */
export function focus(e: HTMLElement) {
  e.focus();
}
