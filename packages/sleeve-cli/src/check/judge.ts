import type {
  MemberComparison,
  ParameterComparison,
  ResultComparison,
  SignatureComparison,
} from "../compiler/comparison.ts";
import type { Misfit } from "../compiler/fit.ts";
import type { FindingName } from "../findings.ts";
import type { Place } from "../place.ts";
import type { Finding } from "./finding.ts";

type MakeFinding = (name: FindingName, expected: string, found: string, remedy: string) => Finding;

/** Judges one member by what the compiler told of it. No findings means that it conforms. */
export function judgeMember(member: string, place: Place, comparison: MemberComparison): readonly Finding[] {
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
    const remedy = `Make ${member} public; clients cannot reach it.`;
    return [finding("missing", target.text, `a ${found.kind} that is private or protected`, remedy)];
  }
  if (found.any === "" || target.any === "") {
    const side = found.any === "" ? "wrapper" : "target";
    const remedy = `Give ${member} a type in the ${side}; \`any\` proves nothing.`;
    return [finding("unproven", target.text, found.text, remedy)];
  }
  if (target.kind !== found.kind) {
    const remedy = target.kind === "class" ? "Let it be constructed." : `Make ${member} a ${target.kind}.`;
    return [finding("kind", `a ${target.kind}: ${target.text}`, found.text, remedy)];
  }
  const optional = found.isOptional && !target.isOptional;
  return [
    ...(optional
      ? [finding("optional", "always there", "may be absent", `Make ${member} required in the wrapper.`)]
      : []),
    ...(target.kind === "property"
      ? judgeProperty(member, comparison, finding)
      : signatures.flatMap((each) => judgeSignature(each, signatures.length > 1, finding))),
  ];
}

function judgeProperty(
  member: string,
  { target, found, reading, writing }: MemberComparison,
  finding: MakeFinding,
): readonly Finding[] {
  const isWritten = !target.isReadonly;
  const any = found.any ?? target.any;
  if (any !== undefined) {
    const remedy = `Give ${member}${any} a type; \`any\` proves nothing.`;
    return [finding("unproven", target.text, `\`any\`, at ${member}${any}`, remedy)];
  }
  if (isWritten && found.isReadonly) {
    const remedy = `Let ${member} be written, or declare it readonly in the target.`;
    return [
      ...misfitFinding("result", reading, target.text, found.text, "Convert the value", finding),
      finding("readonly", "can be written", "read only", remedy),
    ];
  }
  if (reading || !isWritten)
    return misfitFinding("result", reading, target.text, found.text, "Convert the value", finding);
  return misfitFinding(
    "parameter",
    writing,
    `takes ${target.text} when written`,
    `takes ${found.text}`,
    `Widen ${member}`,
    finding,
  );
}

function judgeSignature(
  signature: SignatureComparison,
  isOverloaded: boolean,
  finding: MakeFinding,
): readonly Finding[] {
  const { expected, found, fits, isGeneric, parameters, needs, sent, hiddenBy, result } = signature;
  if (isOverloaded && !fits) {
    return [finding("overload", expected, found, "Serve this overload of the target too.")];
  }
  if (hiddenBy !== undefined) {
    const remedy = "Put the overload that takes less before the one that takes more.";
    return [finding("overload", expected, `${hiddenBy}, which stands before it and takes its calls`, remedy)];
  }
  if (isGeneric && !fits && result.any === undefined && result.misfit?.kind !== "parameter") {
    const remedy = "Make the generic signature fit as a whole.";
    return [finding("signature", expected, withPath(found, result.misfit), remedy)];
  }
  const excess = `at most ${sent} arguments, as the target sends`;
  return [
    ...parameters.flatMap((parameter) => judgeParameter(parameter, finding)),
    ...(needs > sent ? [finding("parameter", excess, `needs ${needs}`, "Do without the others.")] : []),
    ...judgeResult(result, finding),
  ];
}

function judgeParameter(
  { name, misfit, any, expected, found }: ParameterComparison,
  finding: MakeFinding,
): readonly Finding[] {
  if (any !== undefined) {
    const remedy = `Give ${name}${any} its type; \`any\` proves nothing.`;
    return [finding("unproven", `${name}: ${expected}`, `\`any\`, for ${name}${any}`, remedy)];
  }
  const remedy = `Take all that the target sends as ${name}`;
  return misfitFinding("parameter", misfit, `${name}: ${expected}`, `${name}: ${found}`, remedy, finding);
}

function judgeResult(result: ResultComparison, finding: MakeFinding): readonly Finding[] {
  const { misfit, any, isVoidExpected, isPromiseExpected, isPromiseFound, expected, found } = result;
  if (isPromiseFound && !isPromiseExpected && (isVoidExpected || misfit)) {
    const remedy = "Settle it before returning, or let the target return a promise.";
    return [finding("async", expected, `${found}, which nobody waits for`, remedy)];
  }
  if (any !== undefined) {
    const where = any === "" ? found : `${found}, with \`any\` at ${any}`;
    return [finding("unproven", expected, where, "Give the result its type; `any` proves nothing.")];
  }
  if (isPromiseExpected && !isPromiseFound && misfit)
    return [finding("async", expected, found, "Return a promise.")];
  return misfitFinding("result", misfit, expected, found, `Convert the result to ${expected}`, finding);
}

function misfitFinding(
  name: "parameter" | "result",
  misfit: Misfit | undefined,
  expected: string,
  found: string,
  remedy: string,
  finding: MakeFinding,
): readonly Finding[] {
  if (!misfit) return [];
  switch (misfit.kind) {
    case "type":
      return [finding(name, expected, withPath(found, misfit), `${remedy}.`)];
    case "parameter": {
      const what = `${misfit.path} takes ${misfit.expected}, and is sent ${misfit.found}`;
      return [finding("parameter", expected, misfit.path ? `${found}: ${what}` : found, `${remedy}.`)];
    }
    case "enum": {
      const what = `${misfit.found} for the enumeration ${misfit.expected}`;
      return [
        finding("enum", expected, `${found}: ${what}`, "Check the number against the enumeration first."),
      ];
    }
    case "weak": {
      const what = `${misfit.found}, which the compiler takes for another name`;
      return [finding("weak", misfit.expected, what, `Did you mean ${misfit.expected.split(" ")[0]}?`)];
    }
  }
}

/** What was found, with the place in it that does not fit, where that is not the whole. */
function withPath(found: string, misfit: Misfit | undefined): string {
  if (!misfit || misfit.path === "") return found;
  return `${found}: ${misfit.path} is ${misfit.found} where ${misfit.expected} is expected`;
}
