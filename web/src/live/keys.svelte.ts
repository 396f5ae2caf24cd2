/** Single keys: letters, digits and signs that do something without Ctrl or Alt. They can be switched off (WCAG 2.2, 2.1.4). */
class Keys {
  on = $state(localStorage.getItem("single-keys") !== "off");

  set(on: boolean) {
    this.on = on;
    localStorage.setItem("single-keys", on ? "on" : "off");
  }
}

export const keys = new Keys();

/** Whether a key is meant for a field. */
export function typing(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement;
  return t.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(t.tagName);
}

/** Whether a single key may act: nothing can be typed where it was pressed, also not by whoever has just opened a form. */
export function single(e: KeyboardEvent): boolean {
  if (!keys.on || e.key.length !== 1 || e.key === " " || e.ctrlKey || e.metaKey || e.altKey || typing(e)) return false;
  const t = e.target as HTMLElement;
  return (
    !!t.closest("button, a") ||
    !t.closest("aside, [role=dialog]")?.querySelector("input:not([type=checkbox]), textarea")
  );
}
