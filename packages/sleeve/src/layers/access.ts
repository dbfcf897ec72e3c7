import type { Call, Layer, Next } from "../forward/call.ts";
import { copyArguments, withArguments } from "../forward/call-arguments.ts";
import { rejectingLike } from "../forward/called-function.ts";
import { openEngine } from "../forward/open/engine.ts";
import { badOption } from "../shared/errors.ts";
import { describeValue, requireFunction, requireOptions } from "../shared/options.ts";
import type { Use } from "../shared/use.ts";
import type { Member } from "../surface/member.ts";
import type { AsyncMembers } from "./async-members.ts";
import { type AccessRequest, denial } from "./core/access-check.ts";
import { type LayerOptions, layer } from "./layer.ts";

export interface AccessOptions<Target> extends LayerOptions<Target> {
  /**
   * What happens on a denied member.
   * - `throw`: the member is listed, and using it throws `DENIED`.
   * - `hide`: `may` is also called with the use `list`; a member that it denies appears not to exist.
   *
   * Default: `throw`.
   */
  readonly onDenied?: "throw" | "hide";
}

/**
 * Checks each call, read, write and construction with `may`.
 *
 * A use is allowed only if `may` returns `true`. Any other result denies it, and so does an error thrown by
 * `may`.
 *
 * Forwarding is sealed, so the check cannot be bypassed: the wrapper hides its subject's prototype and class
 * (`instanceof` is `false`), every object that comes out is wrapped, and the subject itself comes out as this
 * wrapper. The check applies to the members of the subject and, for a class, of its instances. With {@link
 * deep} in the stack it applies to every object that comes out.
 *
 * An asynchronous `may` needs `only`, with members that return promises.
 *
 * @example
 * import { access, decorate } from "sleeve";
 *
 * const ledger = { read: (berth: number) => `berth ${berth}`, erase: (berth: number) => berth };
 * const readable = decorate(ledger, access(({ member }) => member === "read"));
 * readable.read(4);
 * readable.erase(4); // throws DENIED
 */
export function access<Target, Context = unknown>(
  may: (request: AccessRequest<Context>) => boolean,
  options?: AccessOptions<Target>,
): Layer<Target, Context>;
export function access<Key extends PropertyKey, Context = unknown>(
  may: (request: AccessRequest<Context>) => Promise<boolean>,
  options: { readonly only: readonly Key[] },
): Layer<AsyncMembers<NoInfer<Key>>, Context>;
export function access(
  may: (request: AccessRequest<never>) => boolean | Promise<boolean>,
  options: AccessOptions<never> = {},
): Layer<never> {
  requireFunction(may, "access: may");
  requireOptions(options, "access", ["only", "onDenied"], '{ onDenied: "hide" }');
  const { only, onDenied = "throw" } = options;
  if (onDenied !== "throw" && onDenied !== "hide")
    throw badOption(`access: onDenied is ${describeValue(onDenied)}. Pass "throw" or "hide".`);
  // The type of the layer ensures that there is a context if the check needs one.
  const decide = (call: Call, use: Use): boolean | Promise<boolean> => {
    const { label, key } = call.member;
    try {
      return may({ use, member: label, key, args: copyArguments(call.args), context: call.context as never });
    } catch (cause) {
      throw denial(use, label, {
        cause,
        isWithoutContext: call.context === undefined && cause instanceof TypeError,
      });
    }
  };
  const checked =
    (use: Use) =>
    (next: Next, { label }: Member, isPrivate = false): Next =>
    (value) => {
      // A copy, so that the check and the subject see the same arguments, whatever list a layer outside passes.
      const call = isPrivate ? value : withArguments(value, copyArguments(value.args));
      const answer = decide(call, use);
      if (answer === true) return next(call);
      if (!(answer instanceof Promise)) throw denial(use, label);
      return answer.then(
        (isAllowed) => {
          if (isAllowed === true) return next(call);
          throw denial(use, label);
        },
        (cause: unknown) => {
          throw denial(use, label, { cause });
        },
      );
    };
  const listed =
    (next: Next, { label, key }: Member): Next =>
    (call) => {
      try {
        return (
          may({ use: "list", member: label, key, args: [], context: call.context as never }) === true &&
          next(call)
        );
      } catch {
        return false;
      }
    };
  return layer<never>(
    "access",
    {
      call: (next, member, isPrivate) => rejectingLike(checked("call")(next, member, isPrivate), false),
      // Reading a method returns a function that is checked when it is called.
      read: (next, member) => (member.kind === "method" ? next : checked("read")(next, member)),
      write: checked("write"),
      construct: checked("construct"),
      ...(onDenied === "hide" && { list: listed }),
    },
    {
      ...(only && { only }),
      forwarding: "sealed",
      engine: openEngine,
      observesAll: true,
      rejects: true,
      hides: onDenied === "hide",
    },
  );
}
