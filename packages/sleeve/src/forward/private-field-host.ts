/**
 * Returns the object that it is constructed with, so that a subclass adds its private fields to that object.
 * Only the subclass can read them. They are collected with the object, without the cost of `WeakMap` entries.
 */
export class PrivateFieldHost {
  constructor(object: object) {
    // biome-ignore lint/correctness/noConstructorReturn: what the class is for
    return object;
  }
}
