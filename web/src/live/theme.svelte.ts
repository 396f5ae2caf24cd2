/** Carbon's themes that Synaptor is drawn in: g100 for dark rooms, g10 by daylight. It is this browser's own. */
class Theme {
  light = $state(localStorage.getItem("theme") === "g10");

  constructor() {
    this.show();
  }

  set(light: boolean) {
    this.light = light;
    localStorage.setItem("theme", light ? "g10" : "g100");
    this.show();
  }

  private show() {
    document.documentElement.setAttribute("theme", this.light ? "g10" : "g100");
  }
}

export const theme = new Theme();
