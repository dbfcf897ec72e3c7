import type { Layer, Next } from "../forward/call.ts";
import { describe, requireObject } from "../forward/subject.ts";
import { layer } from "../layers/layer.ts";
import { SleeveError } from "../shared/errors.ts";
import { memberOf } from "../surface/member.ts";
import { decorate } from "./decorate.ts";

/**
 * Returns an object with all members of the subject and a few replaced. Replacements can use the original.
 *
 * Replacements are written as object members: methods, values, `get` and `set`. Their `this` is the new
 * object. The subject is not changed, and calls that it makes on itself do not reach the replacements.
 *
 * @throws {SleeveError} `NO_SUBJECT`, `NOT_AN_OBJECT`, and `NO_SUCH_MEMBER` if there is no member to replace
 * @example
 * import { override } from "sleeve";
 *
 * const ledger = { book: (berth: number, vessel: string) => `${vessel} at ${berth}`, count: () => 3 };
 * const tidy = override(ledger, (original) => ({
 *   book: (berth, vessel) => original.book(berth, vessel.trim()),
 * }));
 * tidy.book(4, " Marigold "); // "Marigold at 4"
 */
export function override<Subject extends object, Key extends keyof Subject>(
  subject: Subject,
  replace: (original: Subject) => Pick<Subject, Key>,
): Subject {
  const original = requireObject(subject, "override", "subject");
  const replacements = replace(subject);
  for (const key of Reflect.ownKeys(replacements)) {
    if (!(key in original)) throw nothingToReplace(key, original);
  }
  return decorate(subject, replacing(replacements, original) as Layer);
}

function replacing(replacements: object, original: object): Layer {
  const descriptorOf = (key: PropertyKey) => Object.getOwnPropertyDescriptor(replacements, key);
  /** A result that is the original is returned as the wrapper, as everywhere. */
  const shown = (value: unknown, wrapper: object) => (value === original ? wrapper : value);
  return layer(
    "override",
    {
      call(next, { key }): Next {
        const method: unknown = descriptorOf(key)?.value;
        if (typeof method !== "function") return next;
        return ({ wrapper, args }) => shown(Reflect.apply(method, wrapper, args), wrapper);
      },
      read(next, { key }): Next {
        const descriptor = descriptorOf(key);
        if (!descriptor || (descriptor.set && !descriptor.get)) return next;
        // A replacement of an own function is reached by reading it.
        if (memberOf(key, descriptor, true).kind === "method") return next;
        return ({ wrapper }) => shown(Reflect.get(replacements, key, wrapper), wrapper);
      },
      write(next, { key }): Next {
        const descriptor = descriptorOf(key);
        if (!descriptor || (descriptor.get && !descriptor.set)) return next;
        return ({ wrapper, args }) => {
          if (descriptor.set) descriptor.set.call(wrapper, args[0]);
          else Reflect.set(replacements, key, args[0]);
        };
      },
    },
    { only: ({ key }) => Object.hasOwn(replacements, key) },
  );
}

function nothingToReplace(key: PropertyKey, original: object): SleeveError {
  return new SleeveError(
    "NO_SUCH_MEMBER",
    `override: ${describe(original)} has no member ${String(key)} to replace. Correct its name.`,
  );
}
