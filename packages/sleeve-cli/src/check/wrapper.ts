import {
  isOptionalMember,
  type Located,
  mappingCandidate,
  memberCandidate,
  type TargetMember,
  targetMembersOf,
} from "../compiler/candidates.ts";
import { compareMember } from "../compiler/comparison.ts";
import {
  type AdapterMapping,
  adapterMappingOf,
  asksNothing,
  type Exported,
  exportedFrom,
  instantiatedTarget,
  isUntyped,
  targetTypeOf,
  wrapperTypeOf,
} from "../compiler/exported.ts";
import type { Checker, Node, Type } from "../compiler/syntax.ts";
import { ProblemError } from "../errors.ts";
import type { Place } from "../place.ts";
import type { OpenProject, SourceText } from "../project/open-project.ts";
import type { MemberResult, WrapperResult } from "./check.ts";
import type { Finding } from "./finding.ts";
import { judgeMember } from "./judge.ts";
import { nearestName } from "./nearest-name.ts";

/**
 * Compares a wrapper with its target, member by member.
 *
 * @throws {ProblemError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`
 */
export function checkWrapper(project: OpenProject, target: string, wrapper: string): WrapperResult {
  const wanted = find(project, target);
  const given = find(project, wrapper);
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
  const targetMembers = targetMembersOf(checker, targetType);
  const members = targetMembers.map((member): MemberResult => {
    const located = mapping
      ? mappingCandidate(checker, mapping, member)
      : memberCandidate(checker, wrapperType, member);
    const at = (located?.node && placeOfNode(project, located.node)) ?? place;
    const findings = located?.candidate
      ? judgeMember(member.name, at, compareMember(checker, member, located.candidate))
      : missing(member, located, at, checker.typeToString(member.type), mapping);
    return { member: member.name, place: at, findings };
  });
  const extra = mapping ? extraEntries(project, mapping, targetMembers, place) : [];
  const isClean = extra.length === 0 && members.every(({ findings }) => findings.length === 0);
  const findings = isClean
    ? [...compileFindings(project, given.exported), ...misfit(checker, wrapperType, targetType, place)]
    : extra;
  return { target, wrapper, place, members, findings, conforms: isClean && findings.length === 0 };
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

interface FoundExport {
  readonly source: SourceText;
  readonly exported: Exported;
}

function find(project: OpenProject, name: string): FoundExport {
  const [file = "", exportName = ""] = name.split("#");
  const source = project.sources.find((each) => each.file === file.replace(/^\.\//, ""));
  if (!source) {
    throw new ProblemError(
      "NO_SUCH_FILE",
      `The config names ${file}, which is no file of the project. Correct the path, or include the file in the compiler's config.`,
    );
  }
  const exported = exportedFrom(project.program, source.path, exportName);
  if (exported) return { source, exported };
  const names = [...project.program.exportsOf(source.path).keys()];
  const meant = nearestName(exportName, names);
  throw new ProblemError(
    "NO_SUCH_EXPORT",
    `The config names ${exportName} of ${file}, which exports ${names.join(", ") || "nothing"}.` +
      (meant ? ` Did you mean ${meant}?` : " Correct the name."),
  );
}

/** A node's place, if it stands in one of the project's own files. */
function placeOfNode(project: OpenProject, node: Node): Place | undefined {
  const path = node.getSourceFile().fileName;
  const source = project.sources.find((each) => each.path === path);
  return source && project.placeOf(source, node.getStart());
}

function placeOfExport(project: OpenProject, { source, exported }: FoundExport): Place {
  const { name } = (exported.declaration ?? {}) as { name?: Node };
  const node = name ?? exported.declaration;
  return (node && placeOfNode(project, node)) ?? project.placeOf(source, 0);
}

function missing(
  member: TargetMember,
  located: Located | undefined,
  place: Place,
  expected: string,
  mapping: AdapterMapping | undefined,
): readonly Finding[] {
  if (!located && isOptionalMember(member)) return [];
  const { name } = member;
  const base = { name: "missing", member: name, place, expected } as const;
  if (!located?.named) {
    const holder = mapping ? "mapping" : "wrapper";
    return [
      { ...base, found: `nothing; the ${holder} has no ${name}`, remedy: `Add ${name} to the ${holder}.` },
    ];
  }
  const { name: asked, known } = located.named;
  const meant = nearestName(asked, known);
  const remedy = meant ? `Did you mean "${meant}"?` : `The adaptee has: ${known.join(", ")}.`;
  return [{ ...base, found: `"${asked}", which the adaptee does not have`, remedy }];
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
  const source = project.sources.find((each) => each.path === path);
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
