import { RELEASE_NAMES } from "../../../shared/release-names.ts";
import type { Finding } from "../../finding.ts";
import type { Context } from "../../types.ts";
import { eachOperation, hasSucceeded } from "../outcomes.ts";
import type { Probe, Wrapping } from "../probe.ts";
import { adapterCall } from "./adapter-call.ts";

/** Finds members that neither call the adaptee nor return anything. */
export async function emptyMembers(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, ownProbes) => {
    if (RELEASE_NAMES.includes(operation.label)) return undefined;
    for (const { args, hint } of ownProbes) {
      if (!hasSucceeded(hint)) return undefined;
      if (hint.raw !== undefined) return undefined;
      const { calls } = await adapterCall(wrapping, operation, args, context);
      if (calls.length > 0) return undefined;
    }
    return {
      name: "calls",
      place: operation.label,
      expected: "a call of the adaptee, or a result",
      found: "neither, with any arguments",
      remedy: "Implement it, or suppress `calls` with the reason if there is nothing to do.",
    };
  });
}

/** Returns a note for each member that failed with all arguments, without a call of the adaptee. */
export async function failingNotes(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly string[]> {
  const notes: string[] = [];
  for (const operation of new Set(probes.map((probe) => probe.operation))) {
    const ownProbes = probes.filter((probe) => probe.operation === operation);
    if (ownProbes.some(({ hint }) => hint.status !== "threw" && hint.status !== "rejected")) continue;
    const called = await Promise.all(
      ownProbes.map(async ({ args }) => (await adapterCall(wrapping, operation, args, context)).calls.length),
    );
    if (called.every((count) => count === 0))
      notes.push(
        `${operation.label} failed with all generated arguments, without a call of its adaptee. Set \`arguments\` in the contract.`,
      );
  }
  return notes;
}
