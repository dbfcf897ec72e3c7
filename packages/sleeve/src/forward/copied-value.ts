import { isObject } from "../shared/intrinsics.ts";
import { PrivateFieldHost } from "./private-field-host.ts";

/**
 * Marks a value and its copy, which represents it on the other side of a membrane, in private fields. They cost less than the
 * entries of a `WeakMap`, because errors come and go.
 */
class CopiedValue extends PrivateFieldHost {
  readonly #counterpart: object;
  readonly #membrane: object;
  readonly #isCopy: boolean;

  constructor(value: object, counterpart: object, membrane: object, isCopy: boolean) {
    super(value);
    this.#counterpart = counterpart;
    this.#membrane = membrane;
    this.#isCopy = isCopy;
  }

  static counterpartOf(value: object, membrane: object): object | undefined {
    if (!(#counterpart in value)) return undefined;
    const marked = value as CopiedValue;
    return marked.#membrane === membrane ? marked.#counterpart : undefined;
  }

  static originalOf(value: object): object | undefined {
    return #counterpart in value && (value as CopiedValue).#isCopy
      ? (value as CopiedValue).#counterpart
      : undefined;
  }

  static isOn(value: object): boolean {
    return #counterpart in value;
  }
}

/**
 * Records that a copy represents a value on the other side of a membrane. Returns `false` if the value is marked already, by
 * another membrane.
 */
export function registerCopy(copy: object, original: object, membrane: object): boolean {
  new CopiedValue(copy, original, membrane, true);
  try {
    if (CopiedValue.isOn(original)) return false;
    new CopiedValue(original, copy, membrane, false);
    return true;
  } catch {
    // The language may forbid private fields on frozen objects.
    return false;
  }
}

/** Returns the copy of a value in a membrane, or the value that a copy of the membrane represents. */
export function counterpartOf(value: object, membrane: object): object | undefined {
  return CopiedValue.counterpartOf(value, membrane);
}

/** Whether a value is a copy that represents another one. */
export function isCopy(value: object): boolean {
  return CopiedValue.originalOf(value) !== undefined;
}

/** Returns the value that a copy represents, or the value itself. */
export function originalOf(value: unknown): unknown {
  return isObject(value) ? (CopiedValue.originalOf(value) ?? value) : value;
}
