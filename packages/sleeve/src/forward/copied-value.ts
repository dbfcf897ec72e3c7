import { isObject } from "../shared/intrinsics.ts";
import { PrivateFieldHost } from "./private-field-host.ts";

/** The membrane that copies a value cross, and the side on which the copies are. */
interface Crossing {
  readonly membrane: object;
  readonly copiesOn: string;
}

/**
 * Marks a value and its copy, which represents it on the other side of a membrane, in private fields. They cost less than the
 * entries of a `WeakMap`, because errors come and go.
 */
class CopiedValue extends PrivateFieldHost {
  readonly #counterpart: object;
  readonly #crossing: Crossing;
  readonly #isCopy: boolean;

  constructor(value: object, counterpart: object, crossing: Crossing, isCopy: boolean) {
    super(value);
    this.#counterpart = counterpart;
    this.#crossing = crossing;
    this.#isCopy = isCopy;
  }

  static counterpartOf(value: object, membrane: object, to: string): object | undefined {
    if (!(#counterpart in value)) return undefined;
    const marked = value as CopiedValue;
    const { membrane: owner, copiesOn } = marked.#crossing;
    // A value that comes from its own side in another way must not be taken for one of the other side.
    const isArriving = marked.#isCopy ? copiesOn !== to : copiesOn === to;
    return owner === membrane && isArriving ? marked.#counterpart : undefined;
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
export function registerCopy(copy: object, original: object, crossing: Crossing): boolean {
  new CopiedValue(copy, original, crossing, true);
  try {
    if (CopiedValue.isOn(original)) return false;
    new CopiedValue(original, copy, crossing, false);
    return true;
  } catch {
    // The language may forbid private fields on frozen objects.
    return false;
  }
}

/** Returns the copy of a value in a membrane, or the value that a copy of the membrane represents, on the side `to`. */
export function counterpartOf(value: object, membrane: object, to: string): object | undefined {
  return CopiedValue.counterpartOf(value, membrane, to);
}

/** Whether a value is a copy that represents another one. */
export function isCopy(value: object): boolean {
  return CopiedValue.originalOf(value) !== undefined;
}

/** Returns the value that a copy represents, or the value itself. */
export function originalOf(value: unknown): unknown {
  return isObject(value) ? (CopiedValue.originalOf(value) ?? value) : value;
}
