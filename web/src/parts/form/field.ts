/** What all fields have in common. */
export interface Field<T> {
  label: string;
  /** What is in it; bound where it is a draft, else what is stored. */
  value?: T;
  /** What is wrong with it, said at the field. */
  error?: string | undefined;
  help?: string;
  /** Of the value, such as ms; it stands in the label. */
  unit?: string;
  /** The label is there, but not seen. */
  hideLabel?: boolean;
  disabled?: boolean;
  id?: string;
  title?: string;
  /** Hears the value once it is final. */
  onchange?: (value: T) => unknown;
  role?: string;
  autocomplete?: "off";
  [key: `data-${string}` | `aria-${string}`]: unknown;
}
