import { releaseKeysOf } from "../../../shared/release-names.ts";
import { reflect } from "../../../surface/reflect.ts";
import type { Finding } from "../../finding.ts";
import type { PlayTerms } from "../../sequences/sequence-run.ts";
import type { Context } from "../../types.ts";
import { badContract } from "../../values/arbitraries.ts";
import { callOf, type Wrapping, withSpied } from "../probe.ts";
import type { Spied } from "../spy.ts";

export interface ReleaseTerms {
  readonly owns: boolean | undefined;
  readonly target: PropertyKey | undefined;
  readonly adaptee: PropertyKey | undefined;
}

/** Checks that an adapter releases its adaptee exactly once if it owns it, and never otherwise. */
export async function releaseFindings(
  wrapping: Wrapping,
  context: Context<object>,
  { owns, target, adaptee }: ReleaseTerms,
): Promise<readonly Finding[]> {
  const findings: Finding[] = [];
  const ways = await withSpied(wrapping, async (wrapper) =>
    target === undefined ? waysToRelease(wrapper) : [target],
  );
  const releaseKeys = await withSpied(wrapping, async (_, { subject }) =>
    adaptee === undefined ? waysToRelease(subject) : [adaptee],
  );
  if (owns && releaseKeys.length === 0)
    throw badContract(
      "The adapter owns its adaptee, but no known name releases the adaptee. Set `releasedBy.adaptee`.",
    );
  if (owns && ways.length === 0) {
    return [finding("the adapter", "a member that releases what it owns", "none", "Add one to the adapter.")];
  }
  for (const way of ways) {
    const place = String(way);
    const [once, twice] = await withSpied(wrapping, async (wrapper, spy) => {
      await released(wrapper, way, context);
      const first = releases(spy, releaseKeys);
      await released(wrapper, way, context);
      return [first, releases(spy, releaseKeys)] as const;
    });
    const remedy = "Record the release, and release only once.";
    if (owns === false && twice > 0)
      findings.push(
        finding(
          place,
          "a borrowed adaptee to stay open",
          `a release by ${place}`,
          "Leave the release to the owner.",
        ),
      );
    else if (owns && once === 0)
      findings.push(finding(place, "the adaptee to be released", `no release by ${place}`, "Release it."));
    else if (owns !== false && once > 1)
      findings.push(finding(place, "one release", `${once} at one call of ${place}`, remedy));
    else if (owns !== false && once === 1 && twice > once)
      findings.push(
        finding(
          place,
          "one release, however often it is requested",
          `${twice} at two calls of ${place}`,
          remedy,
        ),
      );
  }
  return findings;
}

function waysToRelease(object: object): readonly PropertyKey[] {
  const methods = reflect(object).filter(({ kind }) => kind === "method");
  return releaseKeysOf(methods.map(({ key, signature }) => [key, signature?.length ?? 0] as const));
}

/** The adaptee's release members may call each other; those calls do not come from outside. */
function releases({ calls }: Spied<object>, ways: readonly PropertyKey[]): number {
  return calls.filter(({ key }) => key !== undefined && ways.includes(key)).length;
}

async function released(wrapper: object, way: PropertyKey, terms: PlayTerms): Promise<void> {
  const operation = { use: "call", key: way as string, label: String(way) } as Parameters<typeof callOf>[1];
  // A second release may be rejected; only what reaches the adaptee counts.
  await callOf(wrapper, operation, [], terms).outcome;
}

function finding(place: string, expected: string, actual: string, remedy: string): Finding {
  return { name: "release", place, expected, found: actual, remedy };
}
