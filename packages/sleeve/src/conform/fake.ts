import { SleeveError } from "../shared/errors.ts";

/**
 * Creates a stand-in for tests that has the given members only. Any other member throws when it is read, so that a
 * test shows what else the code uses. Check it against the contract like any implementation.
 *
 * @param members the members, with `undefined` for an optional one that is absent
 * @throws {SleeveError} NOT_FAKED, from the fake, when another member is read
 *
 * @example
 * import { fake } from "sleeve/conform";
 *
 * interface Tides { heightAt(gauge: string): Promise<number>; close(): void }
 *
 * const tides = fake<Tides>({ heightAt: async () => 3.2 });
 * console.log(await tides.heightAt("PE-1"));
 */
export function fake<Target extends object>(
  members: { readonly [Member in keyof Target]?: Target[Member] | undefined },
): Target {
  return new Proxy(members, {
    get(input, key, receiver) {
      if (key in input || typeof key === "symbol" || INSPECTED.has(key))
        return Reflect.get(input, key, receiver) as unknown;
      const listed = Reflect.ownKeys(input).map(String).join(", ") || "no members";
      throw new SleeveError(
        "NOT_FAKED",
        `The fake has no ${key}. It was given ${listed}. Add ${key}, or \`${key}: undefined\` if it is absent.`,
      );
    },
    // A fake is used as the whole target; what it was not given throws.
  }) as Target;
}

/** Members that runtimes and test runners read from any object. */
const INSPECTED: ReadonlySet<string> = new Set([
  "then",
  "toJSON",
  "constructor",
  "asymmetricMatch",
  "nodeType",
  "tagName",
  "$$typeof",
  "length",
]);
