import type { Program } from "../../compiler/program.ts";
import type { Checker, Type } from "../../compiler/typescript.ts";
import { exportedFrom } from "../../conformance/exported.ts";
import { errorsOf, type FileSteps } from "../../emit/compile.ts";
import type { Declaration, Member } from "../../emit/module.ts";
import type { Style } from "../../emit/style.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { importsIn } from "../library.ts";
import type { WrapPlace } from "../place.ts";
import { adaptedCode, adapterOf, signatureCode } from "../render/adapter.ts";
import type { ChosenMember } from "../render/class.ts";
import { freshNames } from "../render/names.ts";
import { type NamedType, nameOfType } from "../target/read-target.ts";
import type { WrapTarget } from "../target/target.ts";
import { type VerifiedWrapper, verifyWrapper } from "../verify.ts";
import { type TypedMember, typedMembersOf } from "./adaptee.ts";
import { CandidateSearch } from "./candidates.ts";
import { type Choice, choose } from "./choose.ts";
import { type ClassState, compileMembers } from "./compile-members.ts";
import { Conversions } from "./conversions.ts";
import { type Candidate, overloadedImplementation, type RejectedCandidate } from "./implementation.ts";
import { UNUSED } from "./unused.ts";
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
  style: Style,
  synonyms: readonly (readonly string[])[],
): FileSteps<VerifiedAdapter> {
  const generic = yield* adapt(project, overlays, places, style, synonyms);
  const { parameterDefaults } = generic.target;
  if (parameterDefaults.length === 0 || !parameterDefaults.every((hasDefault) => hasDefault)) return generic;
  // Types that depend on a parameter may be known only for its default.
  const target = { ...places.target, usesDefaults: true };
  const plain = yield* adapt(project, overlays, { ...places, target }, style, synonyms);
  const count = ({ choices }: VerifiedAdapter) => choices.filter(({ chosen }) => chosen).length;
  return count(plain) > count(generic) ? plain : generic;
}

function* adapt(
  project: OpenProject,
  overlays: OverlayProgram,
  { target: place, adaptee: adapteePlace }: AdapterPlaces,
  style: Style,
  synonyms: readonly (readonly string[])[],
): FileSteps<VerifiedAdapter> {
  const { path, className } = place;
  const { program } = overlays;
  // The forms in which a class can have the members of the target.
  const forwarder = yield* verifyWrapper(project, overlays, place, style);
  const { target, chosen: members, imports } = forwarder;
  const taken = imports.map(({ local }) => local);
  const adapteeType = yield* nameOfType(project, overlays, adapteePlace, taken);
  const available = importsIn([...imports, ...adapteeType.imports], place);
  let adaptee = { type: "", name: adapteeType.name };
  // Type arguments that the adaptee does not accept are left open.
  for (const type of adapteeTypes(adapteeType, target.parameterNames)) {
    adaptee = { type, name: adapteeType.name };
    const probe = probeClass(target.parameters, { target: target.type, adaptee: type });
    const errors = yield* errorsOf({ imports: available, declarations: [probe] });
    if (errors.every(({ code }) => UNUSED.has(code))) break;
  }
  const names = new NameComparison(synonyms, [place.given, adapteePlace.given]);
  const considered = search(
    program,
    path,
    members,
    names,
    `${className}${argumentsText(target.parameterNames)}`,
  );

  const failed = new Map<string, string>();
  const errors = yield* errorsOf({
    imports: available,
    declarations: candidateClass(target, className, adaptee.type, members, considered),
  });
  for (const { owner, text, code } of errors)
    if (owner !== undefined && !UNUSED.has(code) && !failed.has(owner)) failed.set(owner, text);
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
  const moduleOf = ({ isImplementable, isCast, failed: open }: ClassState) => {
    const byName = new Map(withoutFailed(choices, open).map((choice) => [choice.name, choice]));
    const present = presentMembers(members, byName);
    const implementable = { ...target, isImplementable };
    return {
      imports: available,
      declarations: adapterOf(implementable, className, adaptee, present, byName, isCast),
    };
  };
  const compiled = yield* compileMembers({
    style,
    isImplementable: target.isImplementable && forwarder.refused.size === 0 && forwarder.hasClause,
    open: new Set(choices.flatMap(({ name, chosen }) => (chosen ? [] : name))),
    label: `adapter of ${place.given} over ${adapteePlace.given}`,
    moduleOf,
  });
  const final = withoutFailed(choices, compiled.failed);
  const byName = new Map(final.map((choice) => [choice.name, choice]));
  const present = presentMembers(members, byName);
  return {
    ...forwarder,
    module: compiled.module,
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
    const ranked = choice.ranked.map((candidate) => ({
      ...candidate,
      why: `${candidate.why}; the compiler reports: ${why}`,
    }));
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
  const probe = exportedFrom(program, path, "Probe");
  if (!probe) return [];
  const { checker, symbol } = probe;
  const [target, adaptee] = ["target", "adaptee"].map((name) =>
    propertyType(checker, checker.getDeclaredTypeOfSymbol(symbol), name),
  );
  if (!target || !adaptee) return [];
  const typed = new Map(typedMembersOf(checker, target).map((member) => [member.name, member]));
  const conversions = new Conversions({ checker, target, adaptee, className });
  const candidateSearch = new CandidateSearch(conversions, names, typedMembersOf(checker, adaptee));
  return members.map((member) => {
    const typedMember = typed.get(member.name);
    const { candidates, rejected } = typedMember
      ? candidateSearch.for(member, typedMember)
      : { candidates: [], rejected: [] };
    const aliases = typedMember ? aliasesOf(typedMember, [...typed.values()], conversions, names) : [];
    return { name: member.name, member, candidates, rejected, aliases };
  });
}

/** Returns the members of a type that are other names of one: `eq` of `equals`. */
function aliasesOf(
  member: TypedMember,
  typedMembers: readonly TypedMember[],
  conversions: Conversions,
  names: NameComparison,
): readonly string[] {
  return typedMembers.flatMap((candidate) => {
    const isSimilar = candidate !== member && names.similarity(member.name, candidate.name) >= ALIAS;
    const isAlias =
      isSimilar &&
      conversions.isAssignable(member.type, candidate.type) &&
      conversions.isAssignable(candidate.type, member.type);
    return isAlias ? [candidate.name] : [];
  });
}

/** Similarity of two members of one type above which the same type makes them names of the same. */
const ALIAS = 0.8;

export function propertyType(checker: Checker, type: Type, name: string): Type | undefined {
  const property = checker.getPropertiesOfType(type).find((symbol) => symbol.name === name);
  return property && checker.getTypeOfSymbol(property);
}

/** Returns a class that declares types as properties, from which they are read. */
export function probeClass(parameters: string, types: Readonly<Record<string, string>>): Declaration {
  const properties = Object.entries(types).map(([name, type]) => `readonly ${name}: ${type};\n`);
  return { kind: "code", code: `export declare class Probe${parameters} {\n${properties.join("")}}` };
}

/** Returns a class with all candidates as members. Errors belong to the candidate. */
function candidateClass(
  { type, parameters, parameterNames }: WrapTarget,
  className: string,
  adapteeType: string,
  members: readonly ChosenMember[],
  considered: readonly Considered[],
): readonly Declaration[] {
  const value = freshNames(parameterNames)("Value");
  const candidates = considered.flatMap(({ candidates: ofMember }, index): readonly Member[] => {
    const member = members[index];
    return member
      ? ofMember.flatMap((candidate, at) => candidateCode(member, candidate, `c${index}_${at}`))
      : [];
  });
  return [
    { kind: "interface", name: className, parameters, bases: [type], members: [] },
    {
      kind: "class",
      name: className,
      parameters,
      fields: [`readonly #adaptee: ${adapteeType}`],
      members: [
        { code: `constructor(adaptee: ${adapteeType}) { this.#adaptee = adaptee; }` },
        {
          code: `#unwrapped<${value}>(value: ${value}): Exclude<${value}, ${type}> | ${adapteeType} { return value as never; }`,
        },
        { code: `#adapted(adaptee: ${adapteeType}): ${type} { return adaptee as never; }` },
        ...candidates,
      ],
    },
  ];
}

function candidateCode(member: ChosenMember, candidate: Candidate, key: string): readonly Member[] {
  if (!candidate.overloads) return [{ owners: [key], code: adaptedCode(member, candidate, key, "this") }];
  return candidate.overloads.map((covered) => {
    const name = `${key}_${covered.index}`;
    return { owners: [name], code: signatureCode(member, covered, name) };
  });
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
  return covered.length === 0 ? [] : [{ ...candidate, ...overloadedImplementation(covered, count) }];
}

function failedOf(
  candidates: readonly Candidate[],
  index: number,
  failed: ReadonlyMap<string, string>,
): readonly RejectedCandidate[] {
  const errors = candidates.map(({ overloads }, at) => {
    const key = `c${index}_${at}`;
    if (!overloads) return failed.get(key);
    const errorsOfSignatures = overloads.map((covered) => failed.get(`${key}_${covered.index}`));
    return errorsOfSignatures.every((text) => text !== undefined) ? errorsOfSignatures[0] : undefined;
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
  { type, parameterNames: ownNames, parameterDefaults }: NamedType,
  theirs: readonly string[],
): readonly string[] {
  if (ownNames.length === 0) return [type];
  const free = new Set(theirs);
  const pick = (name: string | undefined) => (name !== undefined && free.delete(name) ? name : undefined);
  const same = ownNames.map((name) => pick(theirs.find((their) => their === name)));
  const chosen = same.map(
    (found, index) =>
      found ??
      pick([...free].find((name) => name[0] === ownNames[index]?.[0])) ??
      (ownNames.length === theirs.length ? pick(theirs[index]) : undefined),
  );
  let count = ownNames.length;
  while (count > 0 && chosen[count - 1] === undefined && parameterDefaults[count - 1]) count--;
  const list = (names: readonly (string | undefined)[]) =>
    names.length === 0 ? type : `${type}<${names.map((name) => name ?? "any").join(", ")}>`;
  const isOptional = parameterDefaults.every((hasDefault) => hasDefault);
  return [
    ...new Set([
      list(chosen.slice(0, count)),
      ...(isOptional ? [type] : []),
      list(ownNames.map(() => undefined)),
    ]),
  ];
}

function argumentsText(names: readonly string[]): string {
  return names.length === 0 ? "" : `<${names.join(", ")}>`;
}
