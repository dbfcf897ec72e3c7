import { SleeveError } from "../errors.ts";
import type { Call, Layer, Next, Use } from "../forward/call.ts";
import type { Member } from "../surface/member.ts";
import { type LayerOptions, layer } from "./layer.ts";
import { requireFunction } from "./options.ts";
import type { Promising } from "./promising.ts";

/** What a client asks to do. */
export interface AccessRequest {
  readonly use: Use;
  /** The name of the member; of a function or a class, its own name. */
  readonly member: string;
  /** The arguments of a call or a construction, the new value of a write. */
  readonly args: readonly unknown[];
}

export interface AccessOptions<Target> extends LayerOptions<Target> {
  /**
   * What becomes of a denied member. `refusing`, unless given: it shows, and throws `DENIED` when it is used.
   * `absent`: the check is also asked whether it may be listed, and if not, it is as if there were no such member.
   */
  readonly denied?: "refusing" | "absent";
}

/**
 * Lets pass only what `may` allows, asked at each use: calls, reads, writes and, of a class, constructions. Whatever
 * is not answered with `true` is denied, and so is what `may` throws on.
 *
 * Forwards sealed, which leaves no way around the check: the wrapper shows neither its subject's prototype nor its
 * class (so `instanceof` does not know it), every object that comes out is a wrapper too, and the subject itself
 * comes out as this one. The check is on the members of the subject and, of a class, of the objects it makes; with
 * {@link deep} in the stack it is on those of everything that comes out.
 *
 * A check that answers later is for members that give promises, which `only` has to name.
 *
 * @example
 * import { access, decorate } from "sleeve";
 *
 * const ledger = { read: (berth: number) => `berth ${berth}`, erase: (berth: number) => berth };
 * const readable = decorate(ledger, access(({ member }) => member === "read"));
 * readable.read(4);
 * readable.erase(4); // throws DENIED
 */
export function access<Target>(
  may: (request: AccessRequest) => boolean,
  options?: AccessOptions<Target>,
): Layer<Target>;
export function access<Key extends PropertyKey>(
  may: (request: AccessRequest) => Promise<boolean>,
  options: { readonly only: readonly Key[] },
): Layer<Promising<NoInfer<Key>>>;
export function access(
  may: (request: AccessRequest) => boolean | Promise<boolean>,
  options: AccessOptions<never> = {},
): Layer<never> {
  const { only, denied = "refusing" } = options;
  requireFunction(may, "access: may");
  const ask = ({ args }: Call, member: string, use: Use): boolean | Promise<boolean> => {
    try {
      return may({ use, member, args });
    } catch (cause) {
      throw denial(use, member, cause);
    }
  };
  const checked =
    (use: Use) =>
    (next: Next, { label }: Member): Next =>
    (call) => {
      const answer = ask(call, label, use);
      if (answer instanceof Promise) return answer.then(pass, (cause) => pass(false, cause));
      return pass(answer);
      function pass(isAllowed: unknown, cause?: unknown): unknown {
        if (isAllowed === true) return next(call);
        throw denial(use, label, cause);
      }
    };
  const listed =
    (next: Next, { label }: Member): Next =>
    (call) => {
      try {
        return may({ use: "list", member: label, args: [] }) === true && next(call);
      } catch {
        return false;
      }
    };
  return layer<never>(
    "access",
    {
      call: checked("call"),
      // To read a method is to be given a function that is checked when it is called.
      read: (next, member) => (member.kind === "method" ? next : checked("read")(next, member)),
      write: checked("write"),
      construct: checked("construct"),
      ...(denied === "absent" && { list: listed }),
    },
    { ...(only && { only }), forwarding: "sealed", meetsEveryCall: true },
  );
}

function denial(use: Use, member: string, cause: unknown): SleeveError {
  const message = `This client may not ${use} ${member}. Ask for the right to it where access is decided.`;
  return new SleeveError("DENIED", message, cause === undefined ? undefined : { cause });
}
