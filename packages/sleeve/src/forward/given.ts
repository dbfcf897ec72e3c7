/**
 * Gives back the object it is constructed with, so that a subclass puts its private fields on that one. Nobody but the
 * subclass sees them; they go with the object, and cost the garbage collector nothing, as the entries of a `WeakMap` do.
 */
export class Given {
  constructor(object: object) {
    // biome-ignore lint/correctness/noConstructorReturn: what the class is for
    return object;
  }
}
