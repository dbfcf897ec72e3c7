import type { Program } from "../../compiler/program.ts";
import type { Checker, Type } from "../../compiler/typescript.ts";
import { exportedFrom } from "../../conformance/exported.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import { Lines } from "../../place.ts";
import type { OpenProject } from "../../project/open-project.ts";
import type { WrapPlace } from "../place.ts";
import { adaptedLines, adapterLines, signatureLines } from "../render/adapter.ts";
import type { ChosenMember, MemberLine } from "../render/class.ts";
import type { FileSteps } from "../steps.ts";
import type { WrapTarget } from "../target.ts";
import {
  importLines,
  type NamedType,
  nameOfType,
  UNUSED,
  type VerifiedWrapper,
  verifyWrapper,
} from "../verify.ts";
import { type TypedMember, typedMembersOf } from "./adaptee.ts";
import {
  type Candidate,
  CandidateSearch,
  overloadedCandidate,
  type RejectedCandidate,
} from "./candidates.ts";
import { type Choice, choose } from "./choose.ts";
import { type ClassState, compileMembers, textOf } from "./compile-members.ts";
import { Conversions } from "./conversions.ts";
import { NameComparison } from "./words.ts";

/** A generated adapter, of which all but the open members compile. */
export interface VerifiedAdapter extends VerifiedWrapper {
  readonly choices: readonly Choice[];
}

/** The adaptee as the user names it, and where the adapter is. */
export interface AdapterPlaces {
  readonly target: WrapPlace;
  readonly adaptee: WrapPlace;
}

/**
 * Generates an adapter. Each proposal is compiled; a member without a good one is left open.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`, and the errors of finding both types
 */
export function* verifyAdapter(
  project: OpenProject,
  overlays: OverlayProgram,
  places: AdapterPlaces,
  synonyms: readonly (readonly string[])[],
): FileSteps<VerifiedAdapter> {
  const generic = yield* adapt(project, overlays, places, synonyms);
  const { parameterDefaults } = generic.target;
  if (parameterDefaults.length === 0 || !parameterDefaults.every((hasDefault) => hasDefault)) return generic;
  // Types that depend on a parameter may be known only for its default.
  const target = { ...places.target, usesDefaults: true };
  const plain = yield* adapt(project, overlays, { ...places, target }, synonyms);
  const count = ({ choices }: VerifiedAdapter) => choices.filter(({ chosen }) => chosen).length;
  return count(plain) > count(generic) ? plain : generic;
}

function* adapt(
  project: OpenProject,
  overlays: OverlayProgram,
  { target: place, adaptee: adapteePlace }: AdapterPlaces,
  synonyms: readonly (readonly string[])[],
): FileSteps<VerifiedAdapter> {
  const { path, className } = place;
  const { program } = overlays;
  // The forms in which a class can have the members of the target.
  const forwarder = yield* verifyWrapper(project, overlays, place);
  const { target, chosen: members, imports } = forwarder;
  const taken = imports.map(({ local }) => local);
  const other = yield* nameOfType(project, overlays, adapteePlace, taken);
  const allImports = [...imports, ...other.imports];
  let adaptee = { type: "", name: other.name };
  let head: readonly MemberLine[] = [];
  // Type arguments that the adaptee does not accept are left open.
  for (const type of adapteeTypes(other, target.parameterNames)) {
    adaptee = { type, name: other.name };
    head = importLines(allImports, sourcesOf(target, members, type), place, []);
    const errors =
      yield `${textOf(head)}\nexport declare class Probe${target.parameters} {\n  readonly target: ${target.type};\n  readonly adaptee: ${type};\n}\n`;
    if (errors().every(({ code }) => UNUSED.has(code))) break;
  }
  const names = new NameComparison(synonyms, [place.given, adapteePlace.given]);
  const considered = search(program, path, members, names, `${className}${argumentsOf(target.type)}`);

  const probe = probeLines(target, className, adaptee.type, members, considered);
  const probeText = textOf([...head, ...probe.lines]);
  const errors = (yield probeText)();
  const lines = new Lines(probeText);
  const failed = new Map<string, string>();
  for (const { offset, text, code } of errors) {
    if (UNUSED.has(code)) continue;
    const line = lines.at(offset).line - 1 - head.length;
    const key = probe.lines[line]?.member;
    if (key !== undefined && !failed.has(key)) failed.set(key, text);
  }
  const choices = choose(
    considered.map(({ name, candidates, rejected, member, aliases }, index) => ({
      name,
      aliases,
      candidates: candidates.flatMap((candidate, at) =>
        compiledOf(candidate, member, `c${index}_${at}`, failed),
      ),
      rejected: [...rejected, ...failedOf(candidates, index, failed)],
    })),
  );
  const write = ({ isImplementable, isCast, failed: open }: ClassState) => {
    const byName = new Map(withoutFailed(choices, open).map((choice) => [choice.name, choice]));
    const present = presentMembers(members, byName);
    return adapterLines({ ...target, isImplementable }, className, adaptee, present, byName, isCast);
  };
  const compiled = yield* compileMembers({
    place,
    imports: allImports,
    isImplementable: target.isImplementable && forwarder.refused.size === 0 && forwarder.hasClause,
    open: new Set(choices.flatMap(({ name, chosen }) => (chosen ? [] : name))),
    label: `adapter of ${place.given} over ${adapteePlace.given}`,
    write,
  });
  const final = withoutFailed(choices, compiled.failed);
  const byName = new Map(final.map((choice) => [choice.name, choice]));
  const present = presentMembers(members, byName);
  return {
    ...forwarder,
    text: compiled.text,
    members: present.length,
    open: present.filter(({ name }) => !byName.get(name)?.chosen).length,
    choices: final,
  };
}

/** Optional members without a proposal are left out. */
function presentMembers(
  members: readonly ChosenMember[],
  choices: ReadonlyMap<string, Choice>,
): readonly ChosenMember[] {
  return members.filter(({ name, isOptional }) => !isOptional || choices.get(name)?.chosen !== undefined);
}

/** Withdraws the proposals that do not compile in the class. */
function withoutFailed(choices: readonly Choice[], failed: ReadonlyMap<string, string>): readonly Choice[] {
  return choices.map((choice) => {
    const why = failed.get(choice.name);
    if (why === undefined) return choice;
    const ranked = choice.ranked.map((one) => ({ ...one, why: `${one.why}; the compiler reports: ${why}` }));
    return { ...choice, chosen: undefined, ranked };
  });
}

interface Considered {
  readonly aliases: readonly string[];
  readonly name: string;
  readonly member: ChosenMember;
  readonly candidates: readonly Candidate[];
  readonly rejected: readonly RejectedCandidate[];
}

/** Finds candidates in the instantiated types that the probe declares. */
function search(
  program: Program,
  path: string,
  members: readonly ChosenMember[],
  names: NameComparison,
  className: string,
): readonly Considered[] {
  const found = exportedFrom(program, path, "Probe");
  if (!found) return [];
  const { checker, symbol } = found;
  const [target, adaptee] = ["target", "adaptee"].map((name) =>
    propertyType(checker, checker.getDeclaredTypeOfSymbol(symbol), name),
  );
  if (!target || !adaptee) return [];
  const typed = new Map(typedMembersOf(checker, target).map((member) => [member.name, member]));
  const conversions = new Conversions({ checker, target, adaptee, className });
  const candidateSearch = new CandidateSearch(conversions, names, typedMembersOf(checker, adaptee));
  return members.map((member) => {
    const own = typed.get(member.name);
    const { candidates, rejected } = own
      ? candidateSearch.for(member, own)
      : { candidates: [], rejected: [] };
    const aliases = own ? aliasesOf(own, [...typed.values()], conversions, names) : [];
    return { name: member.name, member, candidates, rejected, aliases };
  });
}

/** Returns the members of a type that are other names of one: `eq` of `equals`. */
function aliasesOf(
  member: TypedMember,
  all: readonly TypedMember[],
  conversions: Conversions,
  names: NameComparison,
): readonly string[] {
  return all.flatMap((other) => {
    const isSimilar = other !== member && names.similarity(member.name, other.name) >= ALIAS;
    const isAlias =
      isSimilar &&
      conversions.isAssignable(member.type, other.type) &&
      conversions.isAssignable(other.type, member.type);
    return isAlias ? [other.name] : [];
  });
}

/** Similarity of two members of one type above which the same type makes them names of the same. */
const ALIAS = 0.8;

export function propertyType(checker: Checker, type: Type, name: string): Type | undefined {
  const property = checker.getPropertiesOfType(type).find((symbol) => symbol.name === name);
  return property && checker.getTypeOfSymbol(property);
}

/** Writes a class with all candidates as members. Each line has the candidate as its member. */
function probeLines(
  target: WrapTarget,
  className: string,
  adapteeType: string,
  members: readonly ChosenMember[],
  considered: readonly Considered[],
): { readonly lines: readonly MemberLine[] } {
  const { type, parameters } = target;
  const lines: MemberLine[] = [
    { text: `export interface ${className}${parameters} extends ${type} {}` },
    { text: `export class ${className}${parameters} {` },
    { text: `  readonly #adaptee: ${adapteeType};` },
    { text: `  constructor(adaptee: ${adapteeType}) { this.#adaptee = adaptee; }` },
    {
      text: `  #unwrapped<Value>(value: Value): Exclude<Value, ${type}> | ${adapteeType} { return value as never; }`,
    },
    { text: `  #adapted(adaptee: ${adapteeType}): ${type} { return adaptee as never; }` },
  ];
  for (const [index, { candidates }] of considered.entries()) {
    const member = members[index];
    if (!member) continue;
    for (const [at, candidate] of candidates.entries()) {
      const key = `c${index}_${at}`;
      const add = (texts: readonly string[], tag: string) => {
        for (const text of texts.flatMap((line) => line.split("\n"))) lines.push({ text, member: tag });
      };
      if (!candidate.overloads) add(adaptedLines(member, candidate, key), key);
      for (const covered of candidate.overloads ?? []) {
        const tag = `${key}_${covered.index}`;
        add(signatureLines(member, covered, tag), tag);
      }
    }
  }
  return { lines: [...lines, { text: "}" }, { text: "" }] };
}

/** Returns a candidate with the signatures that compile; nothing if none does. */
function compiledOf(
  candidate: Candidate,
  { form }: ChosenMember,
  key: string,
  failed: ReadonlyMap<string, string>,
): readonly Candidate[] {
  if (!candidate.overloads) return failed.has(key) ? [] : [candidate];
  const covered = candidate.overloads.filter(({ index }) => !failed.has(`${key}_${index}`));
  const count = form.kind === "method" ? form.signatures.length : 0;
  return covered.length === 0 ? [] : [{ ...candidate, ...overloadedCandidate(covered, count) }];
}

function failedOf(
  candidates: readonly Candidate[],
  index: number,
  failed: ReadonlyMap<string, string>,
): readonly RejectedCandidate[] {
  const errors = candidates.map(({ overloads }, at) => {
    const key = `c${index}_${at}`;
    if (!overloads) return failed.get(key);
    const own = overloads.map((covered) => failed.get(`${key}_${covered.index}`));
    return own.every((text) => text !== undefined) ? own[0] : undefined;
  });
  const compiled = new Set(candidates.flatMap(({ uses }, at) => (errors[at] === undefined ? [uses] : [])));
  return candidates.flatMap(({ uses, name }, at) => {
    const why = errors[at];
    const isFirst = candidates.findIndex((candidate) => candidate.uses === uses) === at;
    return why === undefined || compiled.has(uses) || !isFirst ? [] : [{ uses, name, why }];
  });
}

/**
 * Writes the adaptee with type arguments, the best first: the target's parameters of the same name or place, defaults, and any
 * types.
 */
export function adapteeTypes(
  { type, parameterNames: own, parameterDefaults }: NamedType,
  theirs: readonly string[],
): readonly string[] {
  if (own.length === 0) return [type];
  const free = new Set(theirs);
  const pick = (name: string | undefined) => (name !== undefined && free.delete(name) ? name : undefined);
  const same = own.map((name) => pick(theirs.find((their) => their === name)));
  const chosen = same.map(
    (found, index) =>
      found ??
      pick([...free].find((name) => name[0] === own[index]?.[0])) ??
      (own.length === theirs.length ? pick(theirs[index]) : undefined),
  );
  let count = own.length;
  while (count > 0 && chosen[count - 1] === undefined && parameterDefaults[count - 1]) count--;
  const list = (names: readonly (string | undefined)[]) =>
    names.length === 0 ? type : `${type}<${names.map((name) => name ?? "any").join(", ")}>`;
  const isOptional = parameterDefaults.every((hasDefault) => hasDefault);
  return [
    ...new Set([list(chosen.slice(0, count)), ...(isOptional ? [type] : []), list(own.map(() => undefined))]),
  ];
}

function argumentsOf(type: string): string {
  return /<.*$/s.exec(type)?.[0] ?? "";
}

export function sourcesOf(
  { type, parameters }: WrapTarget,
  members: readonly ChosenMember[],
  adaptee: string,
): string {
  const types = members.flatMap(({ key, form }) => [
    key,
    ...(form.kind === "method" ? form.signatures.map(({ text }) => text) : [form.type, form.written ?? ""]),
  ]);
  return [type, parameters, adaptee, ...types].join("\n");
}
