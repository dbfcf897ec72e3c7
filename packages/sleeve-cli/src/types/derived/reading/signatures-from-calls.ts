import type { Checker } from "../../../compiler/typescript.ts";
import { mapSignature, type SignatureShape, signatureIdentity, UNKNOWN } from "../shapes/shape.ts";
import { groupedBy, groupsOf, MOST_OVERLOADS } from "./call-groups.ts";
import { type ResolvedCall, resolvedCall } from "./call-sites.ts";
import { type CallSite, Underivable } from "./derive-context.ts";
import { genericIfReadable, keptParameters } from "./generic-signature.ts";
import { mergedSignature } from "./merged-calls.ts";
import { type ReadCall, type Readers, readCall, withBooleans } from "./read-call.ts";

/**
 * Returns the signatures of a function from its calls: parameters from the arguments, results as the compiler
 * infers them. Calls with equal results share a signature; a type parameter remains where callers write one or
 * where it decides the result.
 */
export function signaturesFromCalls(
  sites: readonly CallSite[],
  readersOf: (checker: Checker) => Readers,
): readonly SignatureShape[] {
  const calls = sites.flatMap((site) => resolvedCall(site) ?? []);
  if (calls.length === 0) throw new Underivable("its calls cannot be resolved");
  if (calls.some(({ hasSpread }) => hasSpread)) return declaredSignatures(calls, readersOf);
  const read = calls.map((call) => readCall(call, readersOf(call.checker)));
  const byDeclaration = groupedBy(read, ({ declaration }) => declaration);
  const signatures: SignatureShape[] = [];
  const plain: ReadCall[] = [];
  for (const group of byDeclaration) {
    const kept = keptParameters(group);
    const generic = kept.length > 0 ? genericIfReadable(group, kept, readersOf) : undefined;
    if (generic) signatures.push(generic);
    else if (group.some(({ typeArguments }) => typeArguments.length > 0))
      throw new Underivable("its result is computed from type arguments that callers write");
    else plain.push(...group);
  }
  const groups = groupsOf(plain);
  // Where results differ, a literal may decide between them.
  const literal =
    groups.length > 1
      ? groups.map((group) => group.map((call) => withBooleans(call, readersOf(call.checker))))
      : groups;
  for (const group of literal) signatures.push(mergedSignature(group));
  const closed = signatures.map(withoutForeign);
  const distinct = [
    ...new Map(closed.map((signature) => [signatureIdentity(signature), signature])).values(),
  ];
  return distinct.length > MOST_OVERLOADS ? declaredSignatures(calls, readersOf) : distinct;
}

function declaredSignatures(
  calls: readonly ResolvedCall[],
  readersOf: (checker: Checker) => Readers,
): readonly SignatureShape[] {
  const most = Math.max(
    ...calls.map(({ args, hasSpread }) => (hasSpread ? Number.POSITIVE_INFINITY : args.length)),
  );
  return groupedBy(calls, ({ declaration }) => declaration).map(([call]) => {
    if (!call) throw new Error("A group has at least one call.");
    return readersOf(call.checker).types.signatures.signature(call.declared, most);
  });
}

/** A type parameter that nothing declares may be anything. */
function withoutForeign(signature: SignatureShape): SignatureShape {
  return mapSignature(signature, (part) =>
    part.kind === "parameter" && part.isForeign ? UNKNOWN : undefined,
  );
}
