import { type OwnType, OwnTypes, type TypeImport } from "../compiler/own-types.ts";
import type { Promised } from "../compiler/promised.ts";
import type { ReferenceKind } from "../compiler/references.ts";
import { isClassSymbol, isValueSymbol } from "../compiler/syntax.ts";
import type { WrittenMember } from "../compiler/type-names.ts";
import type { UsedMembers } from "../compiler/used-members.ts";
import { Uncopiable, type WrittenExport, writeExport } from "../compiler/written-export.ts";
import type { Language } from "../isolation/language.ts";
import {
  exportKey,
  factoryName,
  GLOBAL_TYPES,
  handedName,
  memberName,
  type Names,
  valueName,
} from "../isolation/naming.ts";
import type { OutsideUses, UsedExport } from "../isolation/outside-uses.ts";
import { exportedAsIn, territoryIn } from "../isolation/territory.ts";
import type { Place } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import { groupsOf, type MemberGroup } from "./groups.ts";

/** One thing that the target offers in the place of an outside export. */
export interface OutlineMember {
  /** The export, as a config writes it. */
  readonly key: string;
  readonly specifier: string;
  readonly export: string;
  /** What the target calls it; empty where it is the target. */
  readonly member: string;
  readonly form: WrittenExport["form"];
  readonly text: string;
  readonly doc: string | undefined;
  readonly parameters: readonly string[] | undefined;
  /** Of a function that calls back: a member that gives a promise instead, offered beside it. */
  readonly promised: (Promised & { readonly member: string }) | undefined;
  /** The type of ours in its place. */
  readonly type: string | undefined;
  /** The name under which callers that keep theirs get it from the adapter's module, if any does. */
  readonly handed: string | undefined;
  readonly isImportedByName: boolean;
}

/** An outside export that the adapter hands on as it is, since it cannot be drafted. */
export interface PassedOn {
  readonly key: string;
  readonly specifier: string;
  readonly export: string;
  readonly handed: string;
  readonly isType: boolean;
  readonly why: string;
  readonly remedy: string;
  readonly places: readonly Place[];
}

/** A target as it can be drafted, before it is written as source. */
export interface Outline {
  readonly outside: string;
  /** The names of the target and of the adapter's object. */
  readonly target: string;
  readonly object: string;
  readonly members: readonly OutlineMember[];
  /** Those of them that belong together, where they fall apart. */
  readonly groups: readonly MemberGroup[];
  /** The members of the target where it is in the shape of the one thing used. */
  readonly whole: readonly WrittenMember[] | undefined;
  readonly types: readonly OwnType[];
  readonly imports: readonly TypeImport[];
  readonly passedOn: readonly PassedOn[];
  /** What the adapter hands on all of, as it is taken whole somewhere: the module, or the one part that is used. */
  readonly handsAll: string | undefined;
  /** What the adapter imports for what that does. */
  readonly touched: readonly string[];
  /** Whether the adapter's module is the outside one, as that is called itself. */
  readonly isItself: boolean;
}

export interface OutlineSettings {
  readonly outside: string;
  /** The name of the adapter's object and, with a capital, the target's. */
  readonly object: string;
  readonly target: string;
  readonly keepsNames: boolean;
  readonly names: Names;
  /** Exports that are to be handed on as they are, with the reason. */
  readonly passOn: ReadonlyMap<string, string>;
  /** In what the adapter is written. */
  readonly language: Language;
  /** Whether all of the module can be handed on, which not every module lets. */
  readonly canHandAll: boolean;
}

const IS_TYPE_ONLY: ReadonlySet<ReferenceKind> = new Set(["type", "type query"]);

/** How many rounds it may take until all types that go in are known to. */
const MOST_ROUNDS = 4;

/** Outlines a target made of what a project uses of an outside module, and only that. */
export function outlineOf(
  project: OpenProject,
  uses: OutsideUses,
  used: UsedMembers,
  settings: OutlineSettings,
): Outline {
  let goesIn: ReadonlySet<string> = new Set();
  for (let round = 1; ; round++) {
    const found = attempt(project, uses, used, settings, goesIn);
    if ([...found.goesIn].every((key) => goesIn.has(key)) || round >= MOST_ROUNDS) return found.outline;
    goesIn = new Set([...goesIn, ...found.goesIn]);
  }
}

interface Attempt {
  readonly outline: Outline;
  /** The types that go in, by what this attempt found. */
  readonly goesIn: ReadonlySet<string>;
}

function attempt(
  project: OpenProject,
  uses: OutsideUses,
  used: UsedMembers,
  settings: OutlineSettings,
  goesIn: ReadonlySet<string>,
): Attempt {
  const { outside, target, object, names, passOn } = settings;
  const [first] = uses.files;
  const checker = first && project.program.checkerFor(first.source.path);
  if (!checker) return { outline: nothing(settings), goesIn: new Set() };
  // A module of CommonJS that is a function can have no object of ours beside it.
  const handsAll = settings.canHandAll ? handedWhole(uses, outside) : undefined;
  if (uses.isCallable && handsAll !== undefined && settings.language === "commonjs")
    return {
      outline: { ...nothing(settings), handsAll, isItself: true, passedOn: typesOf(uses, outside) },
      goesIn: new Set(),
    };
  const own = new OwnTypes({
    checker,
    territoryOf: territoryIn(project, outside),
    exportedAs: exportedAsIn(project),
    used,
    goesIn,
    names,
    taken: new Set([target, object, ...GLOBAL_TYPES]),
  });
  const sole = soleExport(uses, passOn);
  const members: OutlineMember[] = [];
  const passedOn: PassedOn[] = [];
  let whole: readonly WrittenMember[] | undefined;
  for (const each of uses.exports) {
    const refused = passOn.get(exportKey(outside, each.specifier, each.name));
    const obstacle = refused === undefined ? obstacleTo(each) : { why: refused, remedy: BY_HAND };
    if (obstacle) {
      passedOn.push(passedOnAs(each, outside, obstacle));
      continue;
    }
    try {
      const written = writeExport(checker, own, used, {
        symbol: each.symbol as NonNullable<typeof each.symbol>,
        kinds: each.kinds,
        member: memberName(outside, each.specifier, each.name, names),
        makesFactories: !settings.keepsNames && !isHandedOn(each),
        isWhole: each === sole,
      });
      whole = written.members ?? whole;
      members.push(memberOf(each, written, settings));
    } catch (error) {
      if (!(error instanceof Uncopiable)) throw error;
      passedOn.push(
        passedOnAs(each, outside, { why: `it cannot be copied: ${error.reason}`, remedy: BY_HAND }),
      );
    }
  }
  const offered = withoutClashes(members).map((each, _, all) => withPromiseIfFree(each, all));
  const types = own.types();
  const outline: Outline = {
    ...nothing(settings),
    members: offered,
    groups: groupsOf(target, outside, offered, types, uses),
    whole,
    types,
    imports: own.imports(),
    passedOn,
    handsAll,
    touched: uses.touched,
  };
  return { outline, goesIn: own.goesIn() };
}

function nothing({ outside, target, object }: OutlineSettings): Outline {
  return {
    outside,
    target,
    object,
    members: [],
    groups: [],
    whole: undefined,
    types: [],
    imports: [],
    passedOn: [],
    handsAll: undefined,
    touched: [],
    isItself: false,
  };
}

/**
 * What can be handed on whole. Names of a part that is would be taken for those of the module, so that it has to be all
 * that is used.
 */
function handedWhole({ whole, exports }: OutsideUses, outside: string): string | undefined {
  const taken = new Set(whole.map(({ specifier }) => specifier));
  if (taken.has(outside)) return outside;
  const used = new Set([...taken, ...exports.map(({ specifier }) => specifier)]);
  const [only] = used;
  return used.size === 1 && taken.size === 1 ? only : undefined;
}

/** The types of a module that is handed on as it is, which are not handed on with it. */
function typesOf({ exports }: OutsideUses, outside: string): readonly PassedOn[] {
  const why = "the module is a function, and taken whole";
  return exports.filter(isTypeOnly).map((each) => passedOnAs(each, outside, { why, remedy: BY_HAND }));
}

function passedOnAs(
  each: UsedExport,
  outside: string,
  { why, remedy }: { readonly why: string; readonly remedy: string },
): PassedOn {
  const { specifier, name, places } = each;
  return {
    key: exportKey(outside, specifier, name),
    specifier,
    export: name,
    handed: handedName(outside, specifier, name),
    isType: isTypeOnly(each),
    why,
    remedy,
    places,
  };
}

/** What the promise beside an export is called among exports that are not to be drafted. */
export function promisedKey(key: string): string {
  return `${key} as a promise`;
}

const BY_HAND =
  "Write what you need of it into the target by hand, in types of your own, and have the adapter convert.";

function memberOf(
  each: UsedExport,
  { form, text, doc, parameters, promised, type }: WrittenExport,
  { outside, names, keepsNames, passOn }: OutlineSettings,
): OutlineMember {
  const { specifier, name, isImportedByName } = each;
  const key = exportKey(outside, specifier, name);
  const named = memberName(outside, specifier, name, names);
  const factory = factoryName(outside, specifier, name, names);
  const member = form === "whole" ? "" : form === "factory" ? factory : named;
  return {
    key,
    specifier,
    export: name,
    member,
    form,
    text: form === "factory" ? text.replace(named, () => factory) : text,
    doc,
    parameters,
    promised:
      promised && !passOn.has(promisedKey(key)) ? { ...promised, member: `${member}Async` } : undefined,
    type,
    handed: keepsNames || isHandedOn(each) ? handedName(outside, specifier, name) : undefined,
    isImportedByName,
  };
}

/** A promise is offered only under a name that nothing else has. */
function withPromiseIfFree(each: OutlineMember, all: readonly OutlineMember[]): OutlineMember {
  const isTaken = all.some(({ member }) => member === each.promised?.member);
  return isTaken ? { ...each, promised: undefined } : each;
}

/** The one value that is used of a module, if that is its default export and no class: then the target is in its shape. */
function soleExport(
  { exports, whole }: OutsideUses,
  passOn: ReadonlyMap<string, string>,
): UsedExport | undefined {
  const values = exports.filter((each) => !isTypeOnly(each));
  const [only] = values;
  const isSole =
    values.length === 1 && whole.length === 0 && only?.name === "default" && !passOn.has("default");
  return isSole && only.symbol && !isClassSymbol(only.symbol) ? only : undefined;
}

function isTypeOnly({ kinds, symbol }: UsedExport): boolean {
  if (symbol && !isValueSymbol(symbol)) return true;
  return kinds.size > 0 && [...kinds].every((kind) => IS_TYPE_ONLY.has(kind));
}

/** Whether some file hands the export on, or takes it in a way that keeps its name. */
function isHandedOn({ kinds, references }: UsedExport): boolean {
  if (kinds.has("export")) return true;
  return references.some(
    ({ site, local }) => local === "" || site.forms.some((form) => KEEPS_NAME.has(form)),
  );
}

const KEEPS_NAME: ReadonlySet<string> = new Set(["require", "dynamic", "re-export", "import type"]);

/** What keeps an export from being drafted, by what is done with it. */
function obstacleTo({
  kinds,
  symbol,
  name,
  references,
}: UsedExport): { readonly why: string; readonly remedy: string } | undefined {
  if (kinds.has("extend"))
    return {
      why: "it is extended",
      remedy: `Hold a ${name} in your class instead of extending it, and draft again.`,
    };
  if (kinds.has("write") || references.some(({ node }) => isPatched(node)))
    return {
      why: "it is patched",
      remedy: "Wrap what the patch changes in the adapter, and take the patch away.",
    };
  if (!symbol)
    return {
      why: "it has no types",
      remedy: "Install types for it or declare them, and draft again.",
    };
  return undefined;
}

/** `Crane.prototype.lift = …`, `Object.assign(Crane.prototype, …)`. */
function isPatched(node: { readonly parent: unknown }): boolean {
  const parent = node.parent as { readonly name?: { readonly text?: string }; readonly expression?: unknown };
  return parent.expression === node && parent.name?.text === "prototype";
}

/** Two parts of a package may export the same name; the second is then called by its part too. */
function withoutClashes(members: readonly OutlineMember[]): readonly OutlineMember[] {
  const seen = new Set<string>();
  return members.map((each) => {
    if (each.form === "type" || !seen.has(each.member)) {
      seen.add(each.member);
      return each;
    }
    const part = each.specifier.split("/").at(-1) ?? "";
    const member = `${valueName(part)}${each.member.charAt(0).toUpperCase()}${each.member.slice(1)}`;
    seen.add(member);
    return {
      ...each,
      member,
      text: each.text.replaceAll(new RegExp(`^(readonly )?${each.member}`, "gm"), `$1${member}`),
    };
  });
}
