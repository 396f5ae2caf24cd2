/** The value of one key; whoever reads it hears when it changes. */
class Box {
  value = $state.raw<unknown>(undefined);
}

/**
 * The last value of each key. Whoever reads one hears of that one only, also where it is not there yet: a map of the framework tells whoever has looked for
 * a key in vain of every change of every other one.
 */
export class Values {
  private readonly boxes = new Map<string, Box>();
  /** Boxes for keys that are looked for before they come: one made while something is worked out would not be heard by that. */
  private readonly spare: Box[] = [];
  /** Counts what has come and gone. */
  private version = $state(0);

  constructor() {
    this.refill();
  }

  get(key: string): unknown {
    let box = this.boxes.get(key);
    if (!box) {
      box = this.spare.pop();
      if (!box) {
        void this.version; // with none left, it hears of all that comes
        return undefined;
      }
      this.boxes.set(key, box);
    }
    return box.value;
  }

  has = (key: string): boolean => this.get(key) !== undefined;

  /** Notes a value; undefined: there is none any more. */
  set(key: string, value: unknown) {
    const known = this.boxes.get(key);
    const box = known ?? new Box();
    const was = box.value;
    if (!known) this.boxes.set(key, box);
    box.value = value;
    if ((was === undefined) !== (value === undefined)) this.version++;
    this.refill();
  }

  /** All that there are, for whoever looks through them. */
  *entries(): Generator<[string, unknown]> {
    void this.version;
    for (const [key, box] of this.boxes) if (box.value !== undefined) yield [key, box.value];
  }

  /** The keys as they are, for nobody who listens. */
  keys = (): string[] => [...this.boxes].filter(([, box]) => box.value !== undefined).map(([key]) => key);

  private refill() {
    while (this.spare.length < 200) this.spare.push(new Box());
  }
}
