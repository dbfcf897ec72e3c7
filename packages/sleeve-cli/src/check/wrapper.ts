import { publicNames } from "../compiler/symbols.ts";
import type { Type } from "../compiler/syntax.ts";
import { membersAsserted } from "../conformance/assertions.ts";
import {
  type Candidate,
  givesItself,
  isOptionalMember,
  type Located,
  mappingCandidate,
  memberCandidate,
  type TargetMember,
  targetMembersOf,
} from "../conformance/candidates.ts";
import {
  type Exported,
  instantiatedTarget,
  isUntyped,
  targetTypeOf,
  wrapperTypeOf,
} from "../conformance/exported.ts";
import { MAX_VALUES } from "../conformance/implementation/found-value.ts";
import { implementationsOf, madeByFacade } from "../conformance/implementation/implementations.ts";
import {
  comesFromUntypedModule,
  isOutsideFactory,
  isOutsideValue,
} from "../conformance/implementation/outside-values.ts";
import { isStaticMember } from "../conformance/implementation/wrapper-code.ts";
import { MemberComparer } from "../conformance/member-comparison.ts";
import { StrictAssignability } from "../conformance/strict-assignability.ts";
import type { Finding, MemberResult, WrapperResult } from "../documents/check-document.ts";
import type { Place } from "../documents/place.ts";
import { CliError } from "../errors.ts";
import { isSlip, nearestName } from "../nearest-name.ts";

import type { OpenProject } from "../project/open-project.ts";

import { type CheckedWrapper, placeOfNode, type Rule, ruleFinding } from "./checked-wrapper.ts";
import { compareMember } from "./compare-member.ts";
import { findExport, placeOfExport } from "./find-export.ts";

import { assertions } from "./rules/assertions.ts";
import { inherited, leaks } from "./rules/exposed-members.ts";
import { facadeLogic } from "./rules/facade-logic.ts";
import { indexSignatures } from "./rules/index-signatures.ts";
import { misspelt } from "./rules/misspelt.ts";
import { unclosed } from "./rules/owned-resources.ts";
import { unbound } from "./rules/receivers.ts";
import { subsystems } from "./rules/subsystems.ts";
import { unprovenOwners } from "./rules/unproven-owners.ts";
import { unusedArguments } from "./rules/unused-arguments.ts";
import { unprovenFinding, unprovenWrapper } from "./unproven-wrapper.ts";

/**
 * Compares a wrapper with its target, member by member.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`
 */
export function checkWrapper(
  project: OpenProject,
  target: string,
  wrapper: string,
  isFacade: boolean,
  isDebt: (member: string | null) => boolean,
): WrapperResult<Finding> {
  const targetExport = findExport(project, target);
  const wrapperExport = findExport(project, wrapper);
  const declared = targetTypeOf(targetExport.exported);
  const wrapperType = declared && wrapperTypeOf(wrapperExport.exported, declared);
  const place = placeOfExport(project, wrapperExport);
  if (!declared || !wrapperType) {
    throw new CliError(
      "NO_SUCH_EXPORT",
      `The compiler has no type for ${declared ? wrapper : target}. Correct its errors first.`,
    );
  }
  const { checker } = wrapperExport.exported;
  const instantiated = instantiatedTarget(
    targetExport.exported,
    wrapperExport.exported,
    declared,
    wrapperType,
  );
  const targetType = instantiated?.type;
  const unproven = unprovenWrapper(checker, declared, targetType, wrapperType, place);
  if (unproven || !targetType) {
    return { target, wrapper, place, members: [], findings: unproven ? [unproven] : [], conforms: false };
  }
  const subjects = implementationsOf(wrapperExport.exported, targetType, (path) => project.isOwn(path)).map(
    ({ owners, code, mapping, notFound }): CheckedWrapper => ({
      project,
      checker,
      target: targetType,
      paired: instantiated?.paired ?? [],
      targetMembers: targetMembersOf(checker, targetType),
      wrapper: wrapperType,
      owners,
      notFound,
      exported: wrapperExport.exported,
      mapping,
      code,
      isFacade: isFacade || madeByFacade(code),
      place,
    }),
  );
  const isCut = subjects.length >= MAX_VALUES;
  if (subjects.length === 0 || isCut) {
    const finding = unprovenFinding(place, {
      expected: checker.typeToString(targetType),
      found: isCut
        ? `${MAX_VALUES} or more values that may implement it, too many to compare`
        : "no class, object or function that implements it",
      remedy: isCut
        ? "Check the classes or functions that create these values instead."
        : "Export what implements the target, or a function that returns it.",
    });
    return { target, wrapper, place, members: [], findings: [finding], conforms: false };
  }
  return checkImplementations(subjects, { target, wrapper, place }, isDebt, () => [
    ...compileFindings(project, wrapperExport.exported),
    ...compileFindings(project, targetExport.exported),
  ]);
}

/** Checks every way in which a wrapper comes about. What several of them have in common is reported once. */
function checkImplementations(
  subjects: readonly CheckedWrapper[],
  result: Pick<WrapperResult<Finding>, "target" | "wrapper" | "place">,
  isDebt: (member: string | null) => boolean,
  compilerFindings: () => readonly Finding[],
): WrapperResult<Finding> {
  const targetMembers = subjects[0]?.targetMembers ?? [];
  // Those that the compiler confirms are no findings, but accepted all the same.
  for (const { code } of subjects) for (const member of membersAsserted(code)) isDebt(member);
  const ruled = distinct(subjects.flatMap((subject) => RULES.flatMap((rule) => rule(subject)))).filter(
    ({ name, member }) => name !== "assertion" || !isDebt(member),
  );
  const members = targetMembers.map((member): MemberResult<Finding> => {
    const bySubject = subjects.map((subject) => memberFindings(subject, member));
    const findings = distinct(bySubject.flatMap((checkedMember) => checkedMember.findings));
    const ruledForMember = ruled.filter((finding) => finding.member === member.name);
    // Something unproven for two reasons is reported once, at the code that causes it.
    const typeName = namedTypeOf(member);
    const isKnown =
      ruledForMember.some(({ name }) => name === "unproven") || (typeName !== undefined && isDebt(typeName));
    const reportedFindings = isKnown ? findings.filter(({ name }) => name !== "unproven") : findings;
    return {
      member: member.name,
      place: bySubject[0]?.at ?? result.place,
      findings: [...reportedFindings, ...ruledForMember],
    };
  });
  const names = new Set(targetMembers.map(({ name }) => name));
  const others = distinct([
    ...subjects.flatMap(extraEntries),
    ...ruled.filter(({ member }) => member === null || !names.has(member)),
  ]);
  const isClean = others.length === 0 && members.every(({ findings }) => findings.length === 0);
  const findings = isClean ? distinct([...compilerFindings(), ...subjects.flatMap(wrapperMismatch)]) : others;
  return { ...result, members, findings, conforms: isClean && findings.length === 0 };
}

function distinct(findings: readonly Finding[]): readonly Finding[] {
  const keyOf = ({ name, member, place, found }: Finding) =>
    JSON.stringify([name, member, place.file, place.line, place.column, found]);
  return [...new Map(findings.map((finding) => [keyOf(finding), finding])).values()];
}

/** Returns the name of a member's type, if its declaration has one. An outside type that is debt may be `any`. */
function namedTypeOf({ symbol }: TargetMember): string | undefined {
  const [declaration] = symbol?.declarations ?? [];
  const { type } = (declaration?.resolve() ?? {}) as {
    readonly type?: { readonly typeName?: { readonly text?: string } };
  };
  return type?.typeName?.text;
}

const RULES: readonly Rule[] = [
  unprovenOwners,
  indexSignatures,
  assertions,
  unusedArguments,
  misspelt,
  inherited,
  leaks,
  unclosed,
  unbound,
  facadeLogic,
  subsystems,
];

/** Returns the findings from the types of one member. */
function memberFindings(
  subject: CheckedWrapper,
  member: TargetMember,
): { readonly at: Place; readonly findings: readonly Finding[] } {
  const { project, checker, mapping, wrapper, owners, place, target, paired } = subject;
  const located = mapping
    ? mappingCandidate(checker, mapping, member)
    : memberCandidate(checker, owners, member);
  const at = (located?.node && placeOfNode(project, located.node)) ?? place;
  if (!located?.candidate) {
    // Nothing is known about the members of an untyped value, which is reported as a whole.
    const isUnknown = !located && !mapping && owners.some(({ type }) => isUntyped(type));
    return { at, findings: isUnknown ? [] : missing(subject, member, located, at) };
  }
  if (isPassedThrough(subject, member, located.candidate)) return { at, findings: [] };
  const isOwn = (path: string) => project.isOwn(path);
  const compared = new MemberComparer(checker, isOwn, mapping ? target : wrapper, paired).member(
    member,
    located.candidate,
  );
  const findings = compareMember(member.name, at, compared);
  return { at, findings: [...findings, ...droppedArguments(subject, member, located.node, compared)] };
}

/** Arguments that the target sends to a member that is mapped by name, and that the adaptee's member does not accept. */
function droppedArguments(
  subject: CheckedWrapper,
  member: TargetMember,
  node: Located["node"],
  { signatures }: ReturnType<MemberComparer["member"]>,
): readonly Finding[] {
  const { mapping, code } = subject;
  const isNamed = mapping !== undefined && !code.members.get(member.name)?.parameters;
  const [onlySignature] = signatures;
  // The adaptee's own member receives everything that the target sends.
  const dropped = (isNamed && signatures.length === 1 && onlySignature?.dropped) || [];
  return dropped.map((name) =>
    ruleFinding(subject, "unused", member.name, node, {
      expected: `a use of ${name}, which the target sends`,
      found: "none: the adaptee's member does not accept it",
      remedy: `Map ${member.name} to a function that uses ${name}.`,
    }),
  );
}

/**
 * Whether a member is outside code as it is, which the compiler has compared with the annotated target. Its own
 * declarations, which may be less strict than ours, are not the wrapper's.
 */
function isPassedThrough(
  { project, checker, wrapper, target, mapping, code }: CheckedWrapper,
  member: TargetMember,
  { type, symbol }: Candidate,
): boolean {
  if (mapping || wrapper.id !== target.id) return false;
  const memberNode = code.members.get(member.name);
  if (memberNode && comesFromUntypedModule(checker, memberNode)) return true;
  const isOwn = (path: string) => project.isOwn(path);
  const isOutside = memberNode
    ? (memberNode.value !== undefined && isOutsideValue(checker, isOwn, memberNode.value)) ||
      isOutsideFactory(checker, isOwn, memberNode)
    : (symbol ?? type.getSymbol())?.declarations.every(({ path }) => !isOwn(path)) === true;
  return isOutside && checker.isTypeAssignableTo(type, member.type);
}

function missing(
  { checker, mapping, owners, code }: CheckedWrapper,
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
    const { name: requested, known } = located.named;
    const meant = nearestName(requested, known);
    const remedy = meant ? `Did you mean "${meant}"?` : `The adaptee has: ${known.join(", ")}.`;
    return [{ ...base, found: `"${requested}", which the adaptee does not have`, remedy }];
  }
  const holder = mapping ? "mapping" : "wrapper";
  const holderText = `no member; the ${holder} has no ${name}`;
  if (isStaticMember(code, name)) {
    return [
      { ...base, found: `${holderText} except a static one`, remedy: `Remove \`static\` from ${name}.` },
    ];
  }
  const there = mapping
    ? [...mapping.entries.keys()]
    : owners.flatMap(({ type }) => publicNames(checker, type));
  const meant = there.find((candidate) => isSlip(candidate, name));
  const remedy = meant ? `Did you misspell ${name} as ${meant}?` : `Add ${name} to the ${holder}.`;
  return [{ ...base, found: holderText, remedy }];
}

/** Finds entries of a mapping that the target does not have. */
function extraEntries({ project, mapping, targetMembers, place }: CheckedWrapper): readonly Finding[] {
  const names = targetMembers.map(({ name }) => name);
  return [...(mapping?.entries ?? [])]
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

/**
 * Covers what members do not show: index signatures, constructors, private members of a class as the target.
 */
function wrapperMismatch({
  project,
  checker,
  wrapper,
  owners,
  mapping,
  target,
  targetMembers,
  paired,
  place,
}: CheckedWrapper): readonly Finding[] {
  // A member that returns itself is compared with the type of the wrapper, and type parameters member by member.
  if (paired.length > 0 || targetMembers.some(givesItself)) return [];
  // A generic literal has no type arguments here. Its members were compared one by one.
  const isOpen = (type: Type) =>
    new StrictAssignability(checker, (path) => project.isOwn(path)).hasFreeParameters(type);
  // A literal may have members that the target does not.
  const ownedResources =
    owners.length === 1 && !mapping
      ? owners.map(({ type }) => checker.getWidenedType(type) ?? type).filter((type) => !isOpen(type))
      : [];
  return [wrapper, ...ownedResources]
    .filter((type) => !checker.isTypeAssignableTo(type, target))
    .slice(0, 1)
    .map(
      (type): Finding => ({
        name: "compile",
        member: null,
        place,
        expected: `assignable to ${checker.typeToString(target)}`,
        found: checker.typeToString(type),
        remedy: "Assign the wrapper to the target in the code, and fix the error that the compiler reports.",
      }),
    );
}

/** Reports compiler errors within the wrapper that no other finding covers. */
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
