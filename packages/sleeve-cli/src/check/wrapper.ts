import {
  givesItself,
  isOptionalMember,
  type Located,
  mappingCandidate,
  memberCandidate,
  type TargetMember,
  targetMembersOf,
} from "../compiler/candidates.ts";
import { Comparison } from "../compiler/comparison.ts";
import {
  type AdapterMapping,
  adapterMappingOf,
  asksNothing,
  type Exported,
  instantiatedTarget,
  isUntyped,
  targetTypeOf,
  wrapperTypeOf,
} from "../compiler/exported.ts";
import { publicNames } from "../compiler/showing.ts";
import type { Checker, Type } from "../compiler/syntax.ts";
import { isStaticMember, madeByFacade, wrapperCodeOf } from "../compiler/wrapper-code.ts";
import { ProblemError } from "../errors.ts";
import { isSlip, nearestName } from "../nearest-name.ts";
import type { Place } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { MemberResult, WrapperResult } from "./check.ts";
import type { Finding } from "./finding.ts";
import { judgeMember } from "./judge.ts";
import { findExport, placeOfExport } from "./locate.ts";
import { assertions } from "./rules/assertions.ts";
import { ignored } from "./rules/ignored.ts";
import { misspelt } from "./rules/misspelt.ts";
import { inherited, leaks } from "./rules/showing.ts";
import { subsystems } from "./rules/subsystems.ts";
import { unbound } from "./rules/unbound.ts";
import { unclosed } from "./rules/unclosed.ts";
import { work } from "./rules/work.ts";
import { placeOfNode, type Rule, ruleFinding, type Subject } from "./subject.ts";

/**
 * Compares a wrapper with its target, member by member.
 *
 * @throws {ProblemError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`
 */
export function checkWrapper(
  project: OpenProject,
  target: string,
  wrapper: string,
  isFacade: boolean,
): WrapperResult<Finding> {
  const wanted = findExport(project, target);
  const given = findExport(project, wrapper);
  const declared = targetTypeOf(wanted.exported);
  const wrapperType = declared && wrapperTypeOf(given.exported, declared);
  const place = placeOfExport(project, given);
  if (!declared || !wrapperType) {
    throw new ProblemError(
      "NO_SUCH_EXPORT",
      `The compiler knows no type of ${declared ? wrapper : target}. Correct its errors first.`,
    );
  }
  const { checker } = given.exported;
  const targetType = instantiatedTarget(wanted.exported, given.exported, declared, wrapperType);
  const unproven = unprovenAsAWhole(checker, declared, targetType, wrapperType, place);
  if (unproven || !targetType) {
    return { target, wrapper, place, members: [], findings: unproven ? [unproven] : [], conforms: false };
  }
  const mapping = adapterMappingOf(given.exported);
  const code = wrapperCodeOf(given.exported, mapping);
  const targetMembers = targetMembersOf(checker, targetType);
  const subject: Subject = {
    project,
    checker,
    target: targetType,
    targetMembers,
    wrapper: wrapperType,
    exported: given.exported,
    mapping,
    code,
    isFacade: isFacade || madeByFacade(code),
    place,
  };
  const ruled = RULES.flatMap((rule) => rule(subject));
  const members = targetMembers.map((member): MemberResult<Finding> => {
    const { at, findings } = memberFindings(subject, member);
    const own = ruled.filter((each) => each.member === member.name);
    // What is unproven twice over is told once, where the code says why.
    const kept = own.some(({ name }) => name === "unproven")
      ? findings.filter(({ name }) => name !== "unproven")
      : findings;
    return { member: member.name, place: at, findings: [...kept, ...own] };
  });
  const names = new Set(targetMembers.map(({ name }) => name));
  const others = [
    ...(mapping ? extraEntries(project, mapping, targetMembers, place) : []),
    ...ruled.filter(({ member }) => member === null || !names.has(member)),
  ];
  const isClean = others.length === 0 && members.every(({ findings }) => findings.length === 0);
  const findings = isClean
    ? [
        ...compileFindings(project, given.exported),
        ...compileFindings(project, wanted.exported),
        // Of what gives itself back, the compiler would have to be told what it is by then.
        ...(targetMembers.some(givesItself) ? [] : misfit(checker, wrapperType, targetType, place)),
      ]
    : others;
  return { target, wrapper, place, members, findings, conforms: isClean && findings.length === 0 };
}

const RULES: readonly Rule[] = [
  assertions,
  ignored,
  misspelt,
  inherited,
  leaks,
  unclosed,
  unbound,
  work,
  subsystems,
];

/** What the types of one member come to. */
function memberFindings(
  subject: Subject,
  member: TargetMember,
): { readonly at: Place; readonly findings: readonly Finding[] } {
  const { project, checker, mapping, wrapper, code, place, target } = subject;
  const located = mapping
    ? mappingCandidate(checker, mapping, member)
    : memberCandidate(checker, wrapper, member);
  const at = (located?.node && placeOfNode(project, located.node)) ?? place;
  if (!located?.candidate) return { at, findings: missing(subject, member, located, at) };
  const isOwn = (path: string) => project.isOwn(path);
  const compared = new Comparison(checker, isOwn, mapping ? target : wrapper).member(
    member,
    located.candidate,
  );
  const findings = judgeMember(member.name, at, compared);
  // The adaptee's own member is called with all that the target sends.
  const isNamed = mapping !== undefined && !code?.members.get(member.name)?.parameters;
  const dropped = isNamed && compared.signatures.length === 1 ? compared.signatures[0]?.dropped : [];
  return {
    at,
    findings: [
      ...findings,
      ...(dropped ?? []).map((name) =>
        ruleFinding(subject, "ignored", member.name, located.node, {
          expected: `something made of ${name}, which the target sends`,
          found: "nothing: the adaptee's member does not take it",
          remedy: `Map ${member.name} to a function that uses ${name}.`,
        }),
      ),
    ],
  };
}

/** A finding where there is nothing to compare member by member. */
function unprovenAsAWhole(
  checker: Checker,
  declared: Type,
  target: Type | undefined,
  wrapper: Type,
  place: Place,
): Finding | undefined {
  const finding = (expected: string, found: string, remedy: string): Finding => ({
    name: "unproven",
    member: null,
    place,
    expected,
    found,
    remedy,
  });
  const text = checker.typeToString(declared);
  if (!target) {
    const remedy =
      "Let the class implement it, or annotate the value, with the type arguments it is meant for.";
    return finding(`${text} with type arguments`, checker.typeToString(wrapper), remedy);
  }
  if (asksNothing(checker, target)) {
    return finding(
      "a target with members",
      text,
      "Name an interface, a type, a class or a function as the target.",
    );
  }
  if (isUntyped(wrapper)) {
    return finding(text, checker.typeToString(wrapper), "Give the wrapper a type; this one proves nothing.");
  }
  return undefined;
}

function missing(
  { checker, mapping, wrapper, code }: Subject,
  member: TargetMember,
  located: Located | undefined,
  place: Place,
): readonly Finding[] {
  if (!located && isOptionalMember(member)) return [];
  const { name } = member;
  const base = {
    name: "missing",
    member: name,
    place,
    expected: checker.typeToString(member.type),
  } as const;
  if (located?.named) {
    const { name: asked, known } = located.named;
    const meant = nearestName(asked, known);
    const remedy = meant ? `Did you mean "${meant}"?` : `The adaptee has: ${known.join(", ")}.`;
    return [{ ...base, found: `"${asked}", which the adaptee does not have`, remedy }];
  }
  const holder = mapping ? "mapping" : "wrapper";
  const found = `nothing; the ${holder} has no ${name}`;
  if (code && isStaticMember(code, name)) {
    return [{ ...base, found: `${found} but a static one`, remedy: `Take \`static\` from ${name}.` }];
  }
  const there = mapping ? [...mapping.entries.keys()] : publicNames(checker, wrapper);
  const meant = there.find((each) => isSlip(each, name));
  const remedy = meant ? `Did you misspell ${name} as ${meant}?` : `Add ${name} to the ${holder}.`;
  return [{ ...base, found, remedy }];
}

function extraEntries(
  project: OpenProject,
  { entries }: AdapterMapping,
  members: readonly TargetMember[],
  place: Place,
): readonly Finding[] {
  const names = members.map(({ name }) => name);
  return [...entries]
    .filter(([name]) => !names.includes(name))
    .map(([name, node]): Finding => {
      const meant = nearestName(name, names);
      return {
        name: "extra",
        member: name,
        place: placeOfNode(project, node) ?? place,
        expected: `a member of the target: ${names.join(", ")}`,
        found: name,
        remedy: meant ? `Did you mean ${meant}?` : `Remove ${name}.`,
      };
    });
}

/** What no member tells: index signatures, constructors, private members of a class that is the target. */
function misfit(checker: Checker, wrapper: Type, target: Type, place: Place): readonly Finding[] {
  if (checker.isTypeAssignableTo(wrapper, target)) return [];
  return [
    {
      name: "compile",
      member: null,
      place,
      expected: `what the compiler takes for ${checker.typeToString(target)}`,
      found: checker.typeToString(wrapper),
      remedy: "Assign the wrapper to the target in the code, and mend what the compiler then says.",
    },
  ];
}

/** What the compiler reports within the wrapper, where no finding of ours tells it already. */
function compileFindings(project: OpenProject, { declaration, path }: Exported): readonly Finding[] {
  const source = project.sourceAt(path);
  if (!declaration || !source) return [];
  return project.program
    .diagnosticsOf(path)
    .filter(({ pos }) => pos >= declaration.pos && pos < declaration.end)
    .map(
      ({ pos, text, code }): Finding => ({
        name: "compile",
        member: null,
        place: project.placeOf(source, pos),
        expected: "a wrapper that compiles",
        found: `${text} (TS${code})`,
        remedy: "Correct the error.",
      }),
    );
}
