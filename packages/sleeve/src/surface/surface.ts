/**
 * The members of a target as data: whether each is called or holds a value. A member left out or misnamed is a
 * compile error.
 */
export type Surface<Target> = {
  readonly [Key in keyof Target]-?: NonNullable<Target[Key]> extends (...args: never[]) => unknown
    ? "method"
    : "property";
};
