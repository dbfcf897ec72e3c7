import { Given } from "./given.ts";
import type { StackNode } from "./stack.ts";

/**
 * The first wrapper that a subject got, kept on the subject itself in private fields, which nobody else can see.
 *
 * Most subjects have one stack, and for those this is some seventy times faster than a `WeakMap`, whose entries cost the
 * garbage collector dear when many objects come and go. Further wrappers are kept in a `WeakMap` for each stack, so that
 * stacks that are gone leave nothing on a subject that stays.
 */
class FirstWrapper extends Given {
  readonly #node: StackNode;
  readonly #wrapper: object;

  constructor(subject: object, node: StackNode, wrapper: object) {
    super(subject);
    this.#node = node;
    this.#wrapper = wrapper;
  }

  static isOn(subject: object): subject is FirstWrapper {
    return #wrapper in subject;
  }

  static of(subject: FirstWrapper, node: StackNode): object | undefined {
    return subject.#node === node ? subject.#wrapper : undefined;
  }
}

/** The wrapper that a subject has of a stack, if it has one. */
export function wrapperOf(subject: object, node: StackNode): object | undefined {
  return (FirstWrapper.isOn(subject) && FirstWrapper.of(subject, node)) || node.laterWrapperOf(subject);
}

export function keepWrapper(subject: object, node: StackNode, wrapper: object): void {
  try {
    if (!FirstWrapper.isOn(subject)) {
      new FirstWrapper(subject, node, wrapper);
      return;
    }
  } catch {
    // A host may forbid private fields on some of its objects, and the language may come to on those that are frozen.
  }
  node.keepLaterWrapper(subject, wrapper);
}
