import type { Controller } from "../api/client";

/** How a controller is drawn for hands on a screen, in CSS pixels. */
export interface Fit {
  /** With its controls where they are drawn. */
  controller: Controller;
  /** The sides of a key. */
  key: number;
  keyHeight: number;
  /** The rows of its layout are columns now, for a screen held upright. */
  turned: boolean;
}

/** The gap between two keys, as a share of a key's width. */
const gap = 1 / 12;
/** What a finger wants: 15 mm, on a phone of usual density. */
const wanted = 91;
/** Keys of a phone may be lower than wide, by this, so that they are wide enough. */
const lowest = 0.75;

/** Fits a controller into a room: square keys where they are large enough, turned where the screen is held upright. */
export function fitted(c: Controller, width: number, height: number): Fit {
  const as = (controller: Controller, turned: boolean): Fit => {
    const wide = width / (controller.width * (1 + gap) - gap);
    const high = height / (controller.height * (1 + gap) - gap);
    const square = Math.min(wide, high);
    const key = square < wanted ? Math.min(wide, wanted, high / lowest) : square;
    return { controller, key: Math.floor(key), keyHeight: Math.floor(Math.min(key, high)), turned };
  };
  const lying = as(c, false);
  if (width >= height || c.width <= c.height) return lying;
  const upright = as(turned(c), true);
  return upright.key > lying.key ? upright : lying;
}

/** The controller with its rows as columns: what is read from left to right is read from the top down. */
function turned(c: Controller): Controller {
  return {
    ...c,
    width: c.height,
    height: c.width,
    controls: c.controls.map((k) => ({ ...k, x: k.y, y: k.x, width: k.height, height: k.width })),
  };
}
