import type {
  MemberComparison,
  ParameterComparison,
  ResultComparison,
  SignatureComparison,
} from "../conformance/compared-member.ts";
import type { Mismatch } from "../conformance/strict-assignability.ts";
import type { Finding } from "../documents/check-document.ts";
import type { Place } from "../documents/place.ts";
import type { CheckFindingName } from "../findings.ts";

type MakeFinding = (name: CheckFindingName, expected: string, found: string, remedy: string) => Finding;

/** Returns the findings of one member, from the comparison of its types. None means that it conforms. */
export function compareMember(
  member: string,
  place: Place,
  comparison: MemberComparison,
): readonly Finding[] {
  const { target, found, signatures } = comparison;
  const finding: MakeFinding = (name, expected, actual, remedy) => ({
    name,
    member,
    place,
    expected,
    found: actual,
    remedy,
  });
  if (found.isHidden) {
    const remedy = `Make ${member} public; clients cannot access it.`;
    return [finding("missing", target.text, `a ${found.kind} that is private or protected`, remedy)];
  }
  if (found.any === "" || target.any === "") {
    const side = found.any === "" ? "wrapper" : "target";
    const remedy = `Annotate ${member} in the ${side}; \`any\` proves nothing.`;
    return [finding("unproven", target.text, found.text, remedy)];
  }
  if (target.kind !== found.kind) {
    const remedy = target.kind === "class" ? "Make it constructible." : `Make ${member} a ${target.kind}.`;
    return [finding("kind", `a ${target.kind}: ${target.text}`, found.text, remedy)];
  }
  const optional = found.isOptional && !target.isOptional;
  return [
    ...(optional
      ? [finding("optional", "always there", "may be absent", `Make ${member} required in the wrapper.`)]
      : []),
    ...(target.kind === "property"
      ? compareProperty(member, comparison, finding)
      : signatures.flatMap((signature) => compareSignature(signature, signatures.length > 1, finding))),
  ];
}

function compareProperty(
  member: string,
  { target, found, reading, writing }: MemberComparison,
  finding: MakeFinding,
): readonly Finding[] {
  const isWritten = !target.isReadonly;
  const any = found.any ?? target.any;
  if (any !== undefined) {
    const remedy = `Annotate ${member}${any}; \`any\` proves nothing.`;
    return [finding("unproven", target.text, `\`any\`, at ${member}${any}`, remedy)];
  }
  if (isWritten && found.isReadonly) {
    const remedy = `Make ${member} writable, or declare it readonly in the target.`;
    return [
      ...mismatchFinding("result", reading, target.text, found.text, "Convert the value", finding),
      finding("readonly", "can be written", "read only", remedy),
    ];
  }
  if (reading || !isWritten)
    return mismatchFinding("result", reading, target.text, found.text, "Convert the value", finding);
  return mismatchFinding(
    "parameter",
    writing,
    `accepts ${target.text} when written`,
    `accepts ${found.text}`,
    `Widen ${member}`,
    finding,
  );
}

function compareSignature(
  signature: SignatureComparison,
  isOverloaded: boolean,
  finding: MakeFinding,
): readonly Finding[] {
  const { expected, found, fits, isWholeOnly, parameters, needs, sent, hiddenBy, result } = signature;
  if (isOverloaded && !fits) {
    return [finding("overload", expected, found, "Implement this overload of the target too.")];
  }
  if (hiddenBy !== undefined) {
    const remedy = "Move the narrower overload before the wider one.";
    return [finding("overload", expected, `${hiddenBy}, which comes first and takes its calls`, remedy)];
  }
  if (isWholeOnly && !fits && result.any === undefined && result.mismatch?.kind !== "parameter") {
    const remedy = "Make the generic signature assignable as a whole.";
    return [finding("signature", expected, withPath(found, result.mismatch), remedy)];
  }
  const excess = `at most ${sent} arguments, as the target sends`;
  return [
    ...parameters.flatMap((parameter) => compareParameter(parameter, finding)),
    ...(needs > sent
      ? [
          finding(
            "parameter",
            excess,
            `needs ${needs}`,
            "Make the other parameters optional, or remove them.",
          ),
        ]
      : []),
    ...compareResult(result, finding),
  ];
}

function compareParameter(
  { name, mismatch, any, expected, found }: ParameterComparison,
  finding: MakeFinding,
): readonly Finding[] {
  if (any !== undefined) {
    const remedy = `Annotate ${name}${any}; \`any\` proves nothing.`;
    return [finding("unproven", `${name}: ${expected}`, `\`any\`, for ${name}${any}`, remedy)];
  }
  const remedy = `Accept everything that the target sends as ${name}`;
  return mismatchFinding("parameter", mismatch, `${name}: ${expected}`, `${name}: ${found}`, remedy, finding);
}

function compareResult(result: ResultComparison, finding: MakeFinding): readonly Finding[] {
  const { mismatch, any, isVoidExpected, isPromiseExpected, isPromiseFound, expected, found } = result;
  if (isPromiseFound && !isPromiseExpected && (isVoidExpected || mismatch)) {
    const remedy = "Await it before returning, or let the target return a promise.";
    return [finding("async", expected, `${found}, which is never awaited`, remedy)];
  }
  if (any !== undefined) {
    const where = any === "" ? found : `${found}, with \`any\` at ${any}`;
    return [finding("unproven", expected, where, "Annotate the result; `any` proves nothing.")];
  }
  if (isPromiseExpected && !isPromiseFound && mismatch)
    return [finding("async", expected, found, "Return a promise.")];
  return mismatchFinding("result", mismatch, expected, found, `Convert the result to ${expected}`, finding);
}

function mismatchFinding(
  name: "parameter" | "result",
  mismatch: Mismatch | undefined,
  expected: string,
  found: string,
  remedy: string,
  finding: MakeFinding,
): readonly Finding[] {
  if (!mismatch) return [];
  switch (mismatch.kind) {
    case "type":
      return [finding(name, expected, withPath(found, mismatch), `${remedy}.`)];
    case "parameter": {
      const what = `${mismatch.path} accepts ${mismatch.expected}, but receives ${mismatch.found}`;
      return [finding("parameter", expected, mismatch.path ? `${found}: ${what}` : found, `${remedy}.`)];
    }
    case "enum": {
      const what = `${mismatch.found} for the enumeration ${mismatch.expected}`;
      return [
        finding("enum", expected, `${found}: ${what}`, "Check the number against the enumeration first."),
      ];
    }
    case "misspelt": {
      const what = `${mismatch.found}, which the compiler accepts as a different name`;
      return [
        finding("misspelt", mismatch.expected, what, `Did you mean ${mismatch.expected.split(" ")[0]}?`),
      ];
    }
  }
}

/** Returns what was found, with the path to the mismatch if it is not the whole type. */
function withPath(found: string, mismatch: Mismatch | undefined): string {
  if (!mismatch || mismatch.path === "") return found;
  return `${found}: ${mismatch.path} is ${mismatch.found} where ${mismatch.expected} is expected`;
}
