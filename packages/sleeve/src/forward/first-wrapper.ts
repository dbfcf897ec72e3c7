import type { LayerStack } from "./layer-stack.ts";
import { PrivateFieldHost } from "./private-field-host.ts";

/**
 * The first wrapper of a subject, stored on the subject in private fields that only this class can read.
 *
 * Most subjects have one stack. For those, this is about seventy times faster than a `WeakMap`, whose entries
 * are costly for the garbage collector when many objects come and go. Further wrappers are stored in one
 * `WeakMap` per stack, so that a discarded stack leaves nothing on a subject.
 */
class FirstWrapper extends PrivateFieldHost {
  readonly #node: LayerStack;
  readonly #wrapper: object;

  constructor(subject: object, node: LayerStack, wrapper: object) {
    super(subject);
    this.#node = node;
    this.#wrapper = wrapper;
  }

  static isOn(subject: object): subject is FirstWrapper {
    return #wrapper in subject;
  }

  static of(subject: FirstWrapper, node: LayerStack): object | undefined {
    return subject.#node === node ? subject.#wrapper : undefined;
  }
}

/** Returns the wrapper of a subject for a stack, if it exists. */
export function findWrapper(subject: object, node: LayerStack): object | undefined {
  return (FirstWrapper.isOn(subject) && FirstWrapper.of(subject, node)) || node.findLaterWrapper(subject);
}

export function storeWrapper(subject: object, node: LayerStack, wrapper: object): void {
  try {
    if (!FirstWrapper.isOn(subject)) {
      new FirstWrapper(subject, node, wrapper);
      return;
    }
  } catch {
    // A host may forbid private fields on some objects, and the language may forbid them on frozen ones.
  }
  node.storeLaterWrapper(subject, wrapper);
}
