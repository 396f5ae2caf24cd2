/** What somebody wants to have explained: while asking, a click explains and does nothing else. */
class Asking {
  /** Clicks explain. */
  on = $state(false);
  topic = $state("");
  control = $state<{ controller: string; control: string; page?: string | undefined } | undefined>();
  readonly open = $derived(this.topic !== "" || this.control !== undefined);

  /** Explains a part of what is seen; false where it is none. */
  explain(at: HTMLElement): boolean {
    const key = at.closest<HTMLElement>("[data-control][data-controller]");
    const part = at.closest<HTMLElement>("[data-help]");
    if (key) {
      this.topic = "";
      const { controller, control } = key.dataset;
      this.control = { controller: controller ?? "", control: control ?? "", page: key.dataset["page"] };
      return true;
    }
    if (!part) return false;
    this.control = undefined;
    this.topic = part.dataset["help"] ?? "";
    return true;
  }

  close() {
    this.topic = "";
    this.control = undefined;
  }
}

export const asking = new Asking();

/** While somebody asks, pressing and clicking go to what explains, wherever it is not in a dialog or a bar. */
export function explains(e: Event) {
  const at = e.target as HTMLElement;
  if (!asking.on || at.closest(".popover")) return;
  const found = at.closest("[data-control][data-controller], [data-help]");
  if (!found) return;
  e.preventDefault();
  e.stopPropagation();
  if (e.type === "click") asking.explain(at);
}
