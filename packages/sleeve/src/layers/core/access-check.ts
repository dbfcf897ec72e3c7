import { SleeveError } from "../../shared/errors.ts";
import type { Use } from "../../shared/use.ts";

/** One use of a member, as the access check sees it. `Context` is the data of a request, with `inContext`. */
export interface AccessRequest<out Context = unknown> {
  readonly use: Use;
  /** Name of the member, and the text of a symbol. For a decorated function or class, its own name. */
  readonly member: string;
  /** The key of the member, which distinguishes symbols with one description from each other and from text. */
  readonly key: string | symbol;
  /** Arguments of a call or construction; the new value of a write. */
  readonly args: readonly unknown[];
  /** The context that `inContext` was called with; otherwise `undefined`. */
  readonly context: Context;
}

/** Decides uses of members. Only `true` allows one; any other result denies it, and so does an error. */
export class AccessCheck {
  readonly #may: (request: AccessRequest) => boolean;

  constructor(may: (request: AccessRequest) => boolean) {
    this.#may = may;
  }

  /** Returns an error with the code `DENIED` unless the use is allowed. */
  denied(
    use: Use,
    member: string,
    args: readonly unknown[],
    key: string | symbol = member,
  ): SleeveError | undefined {
    try {
      const isAllowed = this.#may({ use, member, key, args, context: undefined });
      return isAllowed === true ? undefined : denial(use, member);
    } catch (cause) {
      return denial(use, member, { cause });
    }
  }

  /** Throws an error with the code `DENIED` unless the use is allowed. */
  require(use: Use, member: string, args: readonly unknown[], key?: string | symbol): void {
    const denied = this.denied(use, member, args, key);
    if (denied !== undefined) throw denied;
  }
}

/** Why a check denied a use, if it failed. */
export interface FailedCheck {
  readonly cause: unknown;
  /** Whether it may have failed because there is no context. */
  readonly isWithoutContext?: boolean;
}

/** Creates the error of a use that is not allowed. */
export function denial(use: Use, member: string, failed?: FailedCheck): SleeveError {
  const message = `Access denied: ${use} ${member}.`;
  if (!failed)
    return new SleeveError(
      "DENIED",
      `${message} Grant it in the function passed to access(), or call a member that is allowed.`,
    );
  const hint = failed.isWithoutContext
    ? " There is no context: if the check needs one, wrap with inContext()."
    : "";
  return new SleeveError("DENIED", `${message} The function passed to access() failed.${hint}`, {
    cause: failed.cause,
  });
}
