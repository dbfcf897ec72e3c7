import { isClassSymbol } from "../../compiler/syntax.ts";
import {
  exportKey,
  factoryName,
  GLOBAL_TYPES,
  isWholeExport,
  memberName,
  reexportName,
  valueName,
} from "../../isolation/naming.ts";
import type { OutsideUses, UsedExport } from "../../isolation/outside/outside-uses.ts";
import { exportedAsIn, originIn } from "../../isolation/type-origin.ts";
import { compareText } from "../../place.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { type CopiedType, CopiedTypes, type TypeFacts, typeKey } from "../../types/copied-types.ts";
import { Uncopiable, type WrittenExport, writeExport } from "../../types/export-declaration.ts";
import { type ModuleImport, OutsidePaths } from "../../types/outside-paths.ts";
import type { WrittenMember } from "../../types/writing/type-names.ts";
import { propertyKey } from "../../types/writing/type-text.ts";
import type { UsedMembers } from "../../uses/members/used-members.ts";
import { type GroupableMember, groupsOf } from "./groups.ts";
import { mentionedOutside, mentionedTypes } from "./mentioned.ts";
import {
  assertionChoice,
  callbackResultKey,
  emptyOutline,
  exportChoice,
  type Outline,
  type OutlineMember,
  type OutlineSettings,
} from "./model.ts";
import {
  baseOf,
  distinctReexports,
  isReexported,
  isTypeOnly,
  MANUAL_STEP,
  obstacleTo,
  type Reexport,
  reexportAs,
  reexportedWhole,
  typesReexported,
} from "./reexports.ts";

/** Maximum number of rounds until all types that are passed in are known. */
const MAX_ROUNDS = 8;

/** Outlines a target from a project's uses of an outside module, and nothing else. */
export function outlineOf(
  project: OpenProject,
  uses: OutsideUses,
  used: UsedMembers,
  settings: OutlineSettings,
): Outline {
  let facts: TypeFacts = { goesIn: new Set(), neededMembers: new Set(), unusedParameters: new Map() };
  /** Type parameters, as `key position`, that are used after all. */
  const keptParameters = new Set<string>();
  for (let round = 1; ; round++) {
    const attempt = outlineOnce(project, uses, used, settings, facts);
    const isKnown =
      [...attempt.facts.goesIn].every((key) => facts.goesIn.has(key)) &&
      [...attempt.facts.neededMembers].every((key) => facts.neededMembers.has(key));
    const before = facts.unusedParameters;
    for (const [key, unused] of attempt.facts.unusedParameters)
      for (const index of before.get(key) ?? [])
        if (!unused.has(index)) keptParameters.add(`${key} ${index}`);
    const unusedParameters = new Map(
      [...attempt.facts.unusedParameters].map(([key, unused]) => [
        key,
        new Set([...unused].filter((index) => !keptParameters.has(`${key} ${index}`))),
      ]),
    );
    const isSettled = [...unusedParameters].every(
      ([key, unused]) => [...unused].join() === [...(before.get(key) ?? [])].join(),
    );
    if ((isKnown && isSettled) || round >= MAX_ROUNDS) return attempt.outline;
    facts = {
      goesIn: new Set([...facts.goesIn, ...attempt.facts.goesIn]),
      neededMembers: new Set([...facts.neededMembers, ...attempt.facts.neededMembers]),
      unusedParameters: new Map([...before, ...unusedParameters]),
    };
  }
}

interface Attempt {
  readonly outline: Outline;
  /** What is known of the types after this attempt. */
  readonly facts: TypeFacts;
}

/** Returns how the types of the modules that are used are reached, the package's own entry first. */
export function outsidePathsOf(project: OpenProject, outside: string, { files }: OutsideUses): OutsidePaths {
  const imports = new Map<string, ModuleImport>();
  for (const { source, sites } of files)
    for (const { specifier, offset } of sites)
      if (!imports.has(specifier)) imports.set(specifier, { specifier, path: source.path, offset });
  const rank = ({ specifier }: ModuleImport) => (specifier === outside ? "" : specifier);
  return new OutsidePaths(
    project.program,
    [...imports.values()].sort((left, right) => compareText(rank(left), rank(right))),
  );
}

function outlineOnce(
  project: OpenProject,
  uses: OutsideUses,
  used: UsedMembers,
  settings: OutlineSettings,
  facts: TypeFacts,
): Attempt {
  const { outside, target, object, names, aliased, paths, checker } = settings;
  if (!checker) return { outline: emptyOutline(settings), facts };
  // A CommonJS module that is a function cannot export our object too.
  const reexportsAll = settings.canReexportAll ? reexportedWhole(uses, outside) : undefined;
  if (uses.isCallable && reexportsAll !== undefined && settings.language === "commonjs")
    return {
      outline: {
        ...emptyOutline(settings),
        reexportsAll,
        isItself: true,
        reexports: typesReexported(uses, outside),
      },
      facts,
    };
  const obstacles = obstaclesIn(uses, settings);
  // The type of what is re-exported is the outside type everywhere.
  const reexportedTypes = [...obstacles.keys()].flatMap(({ symbol }) => (symbol && typeKey(symbol)) ?? []);
  const copiedTypes = new CopiedTypes({
    checker,
    originOf: originIn(project, outside),
    exportedAs: exportedAsIn(project),
    used,
    paths,
    facts,
    aliased: new Set([...aliased.keys(), ...reexportedTypes]),
    names,
    taken: new Set([target, object, ...GLOBAL_TYPES]),
  });
  const parts = writtenParts(checker, copiedTypes, uses, used, { ...settings, obstacles });
  const { whole, wholeType } = parts;
  const offered = withoutClashes(parts.members).map((clash, _, members) => withPromiseIfFree(clash, members));
  const texts = [
    ...[...offered, ...(whole ?? [])].map(({ text }) => text),
    ...offered.map(({ factory }) => factory?.text ?? ""),
  ];
  const types = mentionedTypes(copiedTypes.types(), [
    ...texts,
    ...offered.flatMap(({ type, callbackResult }) => [type ?? "", callbackResult?.text ?? ""]),
  ]);
  const outline: Outline = {
    ...emptyOutline(settings),
    members: offered,
    groups: groupsOf(
      target,
      groupable(offered, filesByKey(outside, uses)),
      types.map(({ name }) => name),
    ),
    whole,
    wholeType,
    types,
    aliased: mentionedOutside(copiedTypes.aliased(), types, [...texts, wholeType ?? ""]),
    imports: copiedTypes.imports(),
    reexports: distinctReexports(parts.reexports),
    reexportsAll,
    touched: uses.touched,
    choices: [...offered.flatMap(choicesOf), ...copiedTypes.written()],
    assertions: offered.filter((member) => mayAssert(member, whole, types, settings)).map(({ key }) => key),
    reasons: new Map([...copiedTypes.reasons(), ...aliased]),
  };
  return { outline, facts: copiedTypes.facts() };
}

type Obstacle = NonNullable<ReturnType<typeof obstacleTo>>;

/** Returns the exports that cannot be members of the target, with the reasons. */
function obstaclesIn(
  { exports }: OutsideUses,
  { outside, reexport, keepsNames }: OutlineSettings,
): ReadonlyMap<UsedExport, Obstacle> {
  const withNested = new Set(
    exports
      .filter(({ name }) => keepsNames && name.includes("."))
      .map(({ specifier, name }) => exportKey(outside, specifier, baseOf(name))),
  );
  return new Map(
    exports.flatMap((exported) => {
      const key = exportKey(outside, exported.specifier, baseOf(exported.name));
      const refused =
        reexport.get(exportKey(outside, exported.specifier, exported.name)) ??
        (withNested.has(key) ? "types of its namespace keep their names" : undefined);
      const obstacle = refused === undefined ? obstacleTo(exported) : { why: refused, remedy: MANUAL_STEP };
      return obstacle ? [[exported, obstacle] as const] : [];
    }),
  );
}

/** The exports of a module as parts of a target. */
interface WrittenParts {
  readonly members: readonly OutlineMember[];
  readonly reexports: readonly Reexport[];
  /** The members of the only export, if the target is its type. */
  readonly whole: readonly WrittenMember[] | undefined;
  readonly wholeType: string | undefined;
}

function writtenParts(
  checker: NonNullable<OutlineSettings["checker"]>,
  copiedTypes: CopiedTypes,
  uses: OutsideUses,
  used: UsedMembers,
  settings: OutlineSettings & { readonly obstacles: ReadonlyMap<UsedExport, Obstacle> },
): WrittenParts {
  const { outside, names, obstacles } = settings;
  const soleValue = soleExport(uses, settings.reexport);
  const members: OutlineMember[] = [];
  const reexports: Reexport[] = [];
  let whole: WrittenParts["whole"];
  let wholeType: string | undefined;
  for (const exported of uses.exports) {
    const obstacle = obstacles.get(exported);
    if (obstacle) {
      reexports.push(reexportAs(exported, outside, obstacle));
      continue;
    }
    try {
      const writtenExport = writeExport(checker, copiedTypes, used, {
        symbol: exported.symbol as NonNullable<typeof exported.symbol>,
        kinds: exported.kinds,
        member: memberName(outside, exported.specifier, exported.name, names),
        makesFactories: !settings.keepsNames && !isReexported(exported),
        isWhole: exported === soleValue,
        path: { specifier: exported.specifier, names: exported.name.split(".") },
        aliased: settings.aliased.get(exportChoice(exportKey(outside, exported.specifier, exported.name))),
      });
      if (writtenExport.form === "whole") {
        whole = writtenExport.members;
        if (writtenExport.aliased !== undefined) wholeType = writtenExport.text;
      }
      members.push(memberOf(exported, writtenExport, settings));
    } catch (error) {
      if (!(error instanceof Uncopiable)) throw error;
      const why = `it cannot be copied: ${error.reason}`;
      reexports.push(reexportAs(exported, outside, { why, remedy: MANUAL_STEP }));
    }
  }
  return { members, reexports, whole, wholeType };
}

/** Returns the choices of a member that can be made otherwise. */
function choicesOf({ form, aliased, key, callbackResult }: OutlineMember): readonly string[] {
  if (form === "type" || aliased !== undefined) return [];
  return [exportChoice(key), ...(callbackResult ? [exportChoice(callbackResultKey(key))] : [])];
}

/**
 * Whether the adapter may assert the type of a member. The compiler rejects a function that accepts objects of
 * the outside module, if the target declares only a part of them; callers have no others to pass.
 */
function mayAssert(
  { form, aliased, text, parts, factory }: OutlineMember,
  whole: readonly WrittenMember[] | undefined,
  types: readonly CopiedType[],
  { language }: OutlineSettings,
): boolean {
  if (language !== "typescript" || form === "type" || aliased !== undefined) return false;
  const ownParts = form === "whole" ? (whole ?? []) : parts;
  const source = [text, factory?.text ?? "", ...ownParts.map((part) => part.text)].join(" ");
  return mentionedTypes(types, [source]).some(({ isPassedBack }) => isPassedBack);
}

/** Returns the files that use each export. */
function filesByKey(outside: string, { exports }: OutsideUses): ReadonlyMap<string, readonly string[]> {
  return new Map(
    exports.map(({ specifier, name, places }) => [
      exportKey(outside, specifier, name),
      [...new Set(places.map(({ file }) => file))],
    ]),
  );
}

function groupable(
  members: readonly OutlineMember[],
  files: ReadonlyMap<string, readonly string[]>,
): readonly GroupableMember[] {
  return members
    .filter(({ form }) => form !== "type" && form !== "whole")
    .map(({ key, text }) => ({ key, text, files: files.get(key) ?? [] }));
}

function memberOf(
  usedExport: UsedExport,
  writtenExport: WrittenExport,
  { outside, names, keepsNames, aliased: chosen }: OutlineSettings,
): OutlineMember {
  const { specifier, name, isImportedByName } = usedExport;
  const { form, text, members, doc, parameters, promisified, type, aliased } = writtenExport;
  const key = exportKey(outside, specifier, name);
  const named = memberName(outside, specifier, name, names);
  const createName = factoryName(outside, specifier, name, names);
  const offeredName = form === "factory" ? createName : named;
  const member = form === "whole" ? "" : offeredName;
  return {
    key,
    specifier,
    export: name,
    member,
    form,
    text: form === "factory" ? text.replace(propertyKey(named), () => propertyKey(createName)) : text,
    takesInstances: writtenExport.takesInstances === true,
    factory: writtenExport.factory && { ...writtenExport.factory, member: createName },
    parts: form === "whole" ? [] : (members ?? []),
    aliased,
    isAsserted: aliased === undefined && chosen.has(assertionChoice(key)),
    doc,
    parameters,
    callbackResult:
      promisified && !chosen.has(exportChoice(callbackResultKey(key)))
        ? { ...promisified, member: `${member}Async` }
        : undefined,
    type,
    reexportedAs: keepsNames || isReexported(usedExport) ? reexportName(outside, specifier, name) : undefined,
    isImportedByName,
  };
}

/** A promise form is offered only under an unused name. */
function withPromiseIfFree(outlineMember: OutlineMember, members: readonly OutlineMember[]): OutlineMember {
  const isTaken = members.some(({ member }) => member === outlineMember.callbackResult?.member);
  return isTaken ? { ...outlineMember, callbackResult: undefined } : outlineMember;
}

/**
 * Returns the single used value of a module if it is the default export and not a class; the target then has
 * its shape.
 */
function soleExport(
  { exports, whole }: OutsideUses,
  passOn: ReadonlyMap<string, string>,
): UsedExport | undefined {
  const values = exports.filter((exported) => !isTypeOnly(exported));
  const [onlyValue] = values;
  const isSole =
    values.length === 1 &&
    whole.length === 0 &&
    onlyValue &&
    isWholeExport(onlyValue.name) &&
    !passOn.has(onlyValue.name);
  return isSole && onlyValue.symbol && !isClassSymbol(onlyValue.symbol) ? onlyValue : undefined;
}

/** Two parts of a package may export the same name; the second one is named with its part. */
function withoutClashes(members: readonly OutlineMember[]): readonly OutlineMember[] {
  const takenNames = new Set<string>();
  return members.map((outlineMember) => {
    if (outlineMember.form === "type" || !takenNames.has(outlineMember.member)) {
      takenNames.add(outlineMember.member);
      return outlineMember;
    }
    const part = outlineMember.specifier.split("/").at(-1) ?? "";
    const member = `${valueName(part)}${outlineMember.member.charAt(0).toUpperCase()}${outlineMember.member.slice(1)}`;
    takenNames.add(member);
    return {
      ...outlineMember,
      member,
      text: outlineMember.text.replaceAll(
        new RegExp(`^(readonly )?${outlineMember.member}`, "gm"),
        `$1${member}`,
      ),
    };
  });
}
