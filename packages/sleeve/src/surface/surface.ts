/** The members of a target as data, with their kinds. A missing or misspelt member is a compile error. */
export type Surface<Target> = {
  readonly [Key in keyof Target]-?: NonNullable<Target[Key]> extends (...args: never[]) => unknown
    ? "method"
    : "property";
};
