import type { MemberComparison, ParameterComparison, SignatureComparison } from "../compiler/comparison.ts";
import type { Place } from "../place.ts";
import type { Finding, FindingName } from "./finding.ts";

/** Judges one member by what the compiler told of it. No findings means that it conforms. */
export function judgeMember(member: string, place: Place, comparison: MemberComparison): readonly Finding[] {
  const { target, found, signatures } = comparison;
  const finding = (name: FindingName, expected: string, actual: string, remedy: string): Finding => ({
    name,
    member,
    place,
    expected,
    found: actual,
    remedy,
  });
  if (found.isAny || target.isAny) {
    const side = found.isAny ? "wrapper" : "target";
    return [
      finding(
        "unproven",
        target.text,
        found.text,
        `Give ${member} a type in the ${side}; \`any\` proves nothing.`,
      ),
    ];
  }
  if (target.isMethod !== found.isMethod) {
    const kind = target.isMethod ? "method" : "property";
    return [finding("kind", `a ${kind}: ${target.text}`, found.text, `Make ${member} a ${kind}.`)];
  }
  const findings: Finding[] = [];
  if (found.isOptional && !target.isOptional) {
    findings.push(
      finding("optional", "always there", "may be absent", `Make ${member} required in the wrapper.`),
    );
  }
  if (target.isMethod) {
    return [
      ...findings,
      ...signatures.flatMap((each) => judgeSignature(each, signatures.length > 1, finding)),
    ];
  }
  if (!comparison.isReadable) {
    findings.push(finding("result", target.text, found.text, `Convert the value to ${target.text}.`));
  }
  if (!target.isReadonly && found.isReadonly) {
    findings.push(
      finding(
        "readonly",
        "can be written",
        "read only",
        `Let ${member} be written, or declare it readonly in the target.`,
      ),
    );
  } else if (!target.isReadonly && comparison.isReadable && !comparison.takesWrites) {
    findings.push(
      finding("parameter", `takes ${target.text} when written`, `takes ${found.text}`, `Widen ${member}.`),
    );
  }
  return findings;
}

type MakeFinding = (name: FindingName, expected: string, found: string, remedy: string) => Finding;

function judgeSignature(
  signature: SignatureComparison,
  isOverloaded: boolean,
  finding: MakeFinding,
): readonly Finding[] {
  const { expected, found, fits, isGeneric, parameters, needs, sent } = signature;
  if (isOverloaded && !fits) {
    return [finding("overload", expected, found, "Serve this overload of the target too.")];
  }
  if (isGeneric && !fits) {
    return [finding("signature", expected, found, "Make the generic signature fit as a whole.")];
  }
  return [
    ...parameters.flatMap((parameter) => judgeParameter(parameter, finding)),
    ...(needs > sent
      ? [
          finding(
            "parameter",
            `at most ${sent} arguments, as the target sends`,
            `needs ${needs}`,
            "Do without the others.",
          ),
        ]
      : []),
    ...judgeResult(signature, finding),
  ];
}

function judgeParameter(
  { name, fits, isAny, expected, found }: ParameterComparison,
  finding: MakeFinding,
): readonly Finding[] {
  if (isAny) {
    return [
      finding(
        "unproven",
        `${name}: ${expected}`,
        `\`any\`, for ${name}`,
        `Give ${name} its type; \`any\` proves nothing.`,
      ),
    ];
  }
  if (fits) return [];
  return [
    finding(
      "parameter",
      `${name}: ${expected}`,
      `${name}: ${found}`,
      `Take all that the target sends as ${name}.`,
    ),
  ];
}

function judgeResult({ result }: SignatureComparison, finding: MakeFinding): readonly Finding[] {
  const { fits, isAny, isVoidExpected, isPromiseExpected, isPromiseFound, expected, found } = result;
  if (isAny) return [finding("unproven", expected, found, "Give the result its type; `any` proves nothing.")];
  if (isPromiseFound && !isPromiseExpected && (isVoidExpected || !fits)) {
    const remedy = "Settle it before returning, or let the target return a promise.";
    return [finding("async", expected, `${found}, which nobody waits for`, remedy)];
  }
  if (isPromiseExpected && !isPromiseFound && !fits)
    return [finding("async", expected, found, "Return a promise.")];
  return fits ? [] : [finding("result", expected, found, `Convert the result to ${expected}.`)];
}
