import { layerError } from "./layer-error.ts";

/** One use of a member: a call with its arguments, a read, or a write with the new value as its argument. */
export interface UseRequest {
  readonly use: "call" | "read" | "write";
  readonly member: string;
  readonly args: readonly unknown[];
  readonly context: undefined;
}

/** Decides uses of members. Only `true` allows one; any other result denies it, and so does an error. */
export class AccessCheck {
  readonly #may: (request: UseRequest) => boolean;

  constructor(may: (request: UseRequest) => boolean) {
    this.#may = may;
  }

  /** Returns an error with the code `DENIED` unless the use is allowed. */
  denied(use: UseRequest["use"], member: string, args: readonly unknown[]): Error | undefined {
    const message = `Access denied: ${use} ${member}. Grant it in the function passed to access(), or call a member that is allowed.`;
    try {
      return this.#may({ use, member, args, context: undefined }) === true
        ? undefined
        : layerError("DENIED", message);
    } catch (cause) {
      return layerError("DENIED", message, cause);
    }
  }

  /** Throws an error with the code `DENIED` unless the use is allowed. */
  require(use: UseRequest["use"], member: string, args: readonly unknown[]): void {
    const denied = this.denied(use, member, args);
    if (denied !== undefined) throw denied;
  }
}
