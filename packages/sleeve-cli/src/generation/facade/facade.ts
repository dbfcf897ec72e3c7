import { basename } from "node:path";
import type { Program } from "../../compiler/program.ts";
import { exportedFrom } from "../../conformance/exported.ts";
import { errorsOf, type FileSteps } from "../../emit/compile.ts";
import type { Style } from "../../emit/style.ts";
import { CliError } from "../../errors.ts";
import { stemOf } from "../../isolation/file-language.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import { nearestName } from "../../nearest-name.ts";
import { exportParts } from "../../place.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { camelCase } from "../../types/writing/type-text.ts";
import { type TypedMember, typedMembersOf } from "../adapt/adaptee.ts";
import { adapteeTypes, probeClass, propertyType } from "../adapt/adapter.ts";
import { type ClassState, compileMembers } from "../adapt/compile-members.ts";
import { UNUSED } from "../adapt/unused.ts";
import { NameComparison } from "../adapt/words.ts";
import { importsIn, standingAlone } from "../library.ts";
import type { WrapPlace } from "../place.ts";
import type { ChosenMember } from "../render/class.ts";
import { type FacadeField, facadeOf } from "../render/facade.ts";
import { nameOfType } from "../target/read-target.ts";
import type { ReferencedImport } from "../target/referenced-types.ts";
import { type VerifiedWrapper, verifyWrapper } from "../verify.ts";
import { DataFlow, type StepMember, type Subsystem } from "./data-flow.ts";
import {
  deriveSteps,
  type Operation,
  type PlannedMember,
  planOperation,
  possibleSteps,
} from "./operation.ts";

/** Steps of an operation, in any order: `admit:book,send`. */
export interface WantedOperation {
  readonly name: string;
  /** Members, as `book` or `ledger.book`. */
  readonly steps: readonly string[];
}

/** A generated facade, of which all but the open operations compile. */
export interface VerifiedFacade extends VerifiedWrapper {
  readonly operations: ReadonlyMap<string, PlannedMember>;
}

/**
 * Reads what the user wants an operation to do.
 *
 * @throws {CliError} `BAD_OPTION`
 */
export function operationsIn(texts: readonly string[]): readonly WantedOperation[] {
  const operations = texts.map((text) => {
    const [, name, steps] = /^([^:]+):(.+)$/.exec(text) ?? [];
    if (name === undefined || steps === undefined)
      throw new CliError(
        "BAD_OPTION",
        `--operation ${text} has no steps. Write the operation and its members, such as admit:book,announce.`,
      );
    return { name, steps: steps.split(",") };
  });
  for (const [at, { name, steps }] of operations.entries()) {
    if (operations.findIndex((operation) => operation.name === name) !== at)
      throw new CliError("BAD_OPTION", `--operation names ${name} twice. Write all of its steps in one.`);
    const twice = steps.find((step, index) => steps.indexOf(step) !== index);
    if (twice !== undefined)
      throw new CliError(
        "BAD_OPTION",
        `--operation ${name} names ${twice} twice. Name it once, and add the second call to the file.`,
      );
  }
  return operations;
}

/**
 * Generates a facade: a class that implements a target by members of several subsystems. Operations that cannot be planned, or
 * do not compile, are left open.
 *
 * @throws {CliError} `BAD_OPTION`, `DOES_NOT_COMPILE`, and the errors of finding the types
 */
export function* verifyFacade(
  project: OpenProject,
  overlays: OverlayProgram,
  { target: place, subsystems }: { readonly target: WrapPlace; readonly subsystems: readonly WrapPlace[] },
  wanted: readonly WantedOperation[],
  style: Style,
  synonyms: readonly (readonly string[])[],
): FileSteps<VerifiedFacade> {
  // The forms in which a class can have the members of the target.
  const forwarder = yield* verifyWrapper(project, overlays, place, style);
  const { target } = forwarder;
  const members = forwarder.chosen.map(asMethod);
  requireOperations(place, members, wanted);
  const { fields, imports } = yield* fieldsOf(project, overlays, subsystems, forwarder);
  const available = importsIn(imports, place);
  const probe = probeClass(target.parameters, {
    target: target.type,
    ...Object.fromEntries(fields.map(({ type }, at) => [`subsystem${at}`, type])),
  });
  const errors = yield* errorsOf({ imports: available, declarations: [probe] });
  const broken = errors.find(({ code }) => !UNUSED.has(code));
  if (broken)
    throw new CliError(
      "DOES_NOT_COMPILE",
      `No facade of ${place.given} compiles: ${broken.text} Nothing was written.`,
    );
  const planned = planAll(overlays.program, place, {
    members,
    fields,
    wanted,
    names: new NameComparison(synonyms),
  });
  requireUsed(subsystems, fields, planned);
  const isPresent = ({ name, isOptional }: ChosenMember, open: ReadonlyMap<string, string>) =>
    !isOptional || (!isOpen(planned.get(name)) && !open.has(name));
  const plannedBut = (failed: ReadonlyMap<string, string>) =>
    new Map([...planned, ...[...failed].map(([name, why]) => [name, failedOperation(why)] as const)]);
  const moduleOf = ({ isImplementable, failed }: ClassState) =>
    standingAlone({
      imports: available,
      declarations: facadeOf(
        { ...target, isImplementable },
        place.className,
        fields,
        members.filter((member) => isPresent(member, failed)),
        plannedBut(failed),
      ),
    });
  const { module, failed } = yield* compileMembers({
    style,
    isImplementable: target.isImplementable && forwarder.refused.size === 0 && forwarder.hasClause,
    open: new Set([...planned].flatMap(([name, operation]) => (isOpen(operation) ? [name] : []))),
    label: `facade of ${place.given}`,
    moduleOf,
  });
  const operations = plannedBut(failed);
  const present = members.filter((member) => isPresent(member, failed));
  return {
    ...forwarder,
    module,
    members: present.length,
    open: present.filter(({ name }) => isOpen(operations.get(name))).length,
    operations,
  };
}

/**
 * Requires that operations use all subsystems, unless some are left to the developer.
 *
 * @throws {CliError} `BAD_OPTION`
 */
function requireUsed(
  subsystems: readonly WrapPlace[],
  fields: readonly FacadeField[],
  planned: ReadonlyMap<string, PlannedMember>,
): void {
  const operations = [...planned.values()];
  if (operations.some(isOpen)) return;
  const usedNames = new Set(
    operations.flatMap((operation) => {
      if (operation.kind === "plan") return operation.steps.map(({ step }) => step.subsystem.name);
      return operation.kind === "property" ? [operation.subsystem.name] : [];
    }),
  );
  const unused = fields.findIndex(({ name }) => !usedNames.has(name));
  if (unused >= 0)
    throw new CliError(
      "BAD_OPTION",
      `--over ${subsystems[unused]?.given}: no operation uses it. Leave it out, or name a step of it with --operation.`,
    );
}

/** A property that holds a function is an operation too. */
function asMethod(member: ChosenMember): ChosenMember {
  const { form } = member;
  const signatures = form.kind === "property" ? (form.called?.signatures ?? []) : [];
  return signatures.length === 0 ? member : { ...member, form: { kind: "method", signatures } };
}

/** Whether the developer has to complete something. */
function isOpen(planned: PlannedMember | undefined): boolean {
  return planned?.kind === "open" || (planned?.kind === "plan" && planned.holes.length > 0);
}

function failedOperation(why: string): PlannedMember {
  return { kind: "open", why: `the compiler reports: ${why}` };
}

/** Names the subsystems, and finds their types. */
function* fieldsOf(
  project: OpenProject,
  overlays: OverlayProgram,
  subsystems: readonly WrapPlace[],
  { target, imports: ofTarget }: VerifiedWrapper,
): FileSteps<{ readonly fields: readonly FacadeField[]; readonly imports: readonly ReferencedImport[] }> {
  const fields: FacadeField[] = [];
  const imports = [...ofTarget];
  for (const subsystem of subsystems) {
    const taken = imports.map(({ local }) => local);
    const named = yield* nameOfType(project, overlays, subsystem, taken);
    // A type that two subsystems name is imported once.
    for (const imported of named.imports)
      if (!imports.some(({ local }) => local === imported.local)) imports.push(imported);
    const [type = named.type] = adapteeTypes(named, target.parameterNames);
    const base = fieldName(subsystem);
    let name = base;
    for (let number = 2; fields.some((field) => field.name === name); number++) name = `${base}${number}`;
    fields.push({ name, type });
  }
  return { fields, imports };
}

/** `tideTable` for `TideTable`, `tideSums` for a module. */
function fieldName({ given }: WrapPlace): string {
  const [module, name] = exportParts(given);
  return camelCase(/^(default|\*)?$/.test(name) ? stemOf(basename(module)) : name);
}

interface Planning {
  readonly members: readonly ChosenMember[];
  readonly fields: readonly FacadeField[];
  readonly wanted: readonly WantedOperation[];
  readonly names: NameComparison;
}

/** Plans each member of the target, in the types that the probe declares. */
function planAll(
  program: Program,
  { path, given }: WrapPlace,
  { members, fields, wanted, names }: Planning,
): ReadonlyMap<string, PlannedMember> {
  const probe = exportedFrom(program, path, "Probe");
  const { checker } = probe ?? {};
  const type = probe && checker?.getDeclaredTypeOfSymbol(probe.symbol);
  const target = type && checker && propertyType(checker, type, "target");
  if (!checker || !type || !target) throw new CliError("NO_SUCH_EXPORT", `${given} cannot be read.`);
  const flow = new DataFlow(checker, names);
  const subsystems = fields.map(({ name }, at): Subsystem => {
    const subsystemType = propertyType(checker, type, `subsystem${at}`);
    return { name, members: subsystemType ? typedMembersOf(checker, subsystemType) : [] };
  });
  const typed = new Map(typedMembersOf(checker, target).map((member) => [member.name, member]));
  const similarity = (left: string, right: string) => names.similarity(left, right);
  return new Map(
    members.map((member): [string, PlannedMember] => {
      const typedMember = typed.get(member.name);
      const steps = wanted.find(({ name }) => name === member.name);
      const named = steps && { steps: stepsNamed(steps, subsystems) };
      if (!typedMember) return [member.name, { kind: "open", why: "its type cannot be read" }];
      if (member.form.kind === "property" && !member.form.isFunction)
        return [member.name, propertyOf(flow, typedMember, subsystems)];
      const operation = operationOf(flow, member, typedMember);
      if ("kind" in operation) return [member.name, operation];
      const derived = named ?? deriveSteps(flow, operation, subsystems, similarity);
      if ("kind" in derived) return [member.name, derived];
      const isOverloaded = typedMember.signatures.length > 1;
      if (isOverloaded && derived.steps.length > 1)
        return [member.name, { kind: "open", why: "it has several signatures, and several steps" }];
      return [
        member.name,
        isOverloaded ? forwarded(operation, derived.steps) : planOperation(flow, operation, derived),
      ];
    }),
  );
}

/** Several signatures are forwarded to one member that has them too. */
function forwarded({ isAsync }: Operation, [step]: readonly StepMember[]): PlannedMember {
  if (!step) return { kind: "open", why: "it has no steps" };
  return {
    kind: "plan",
    isAsync,
    steps: [{ step, args: [], local: "", isAsync, undo: undefined }],
    returns: undefined,
    holes: [],
  };
}

function operationOf(
  flow: DataFlow,
  { form }: ChosenMember,
  typedMember: TypedMember,
): Operation | PlannedMember {
  const [signature] = typedMember.signatures;
  if (!signature || form.kind !== "method")
    return { kind: "open", why: "its signature cannot be written as that of a method" };
  const parameters = form.signatures[0]?.parameters ?? [];
  return {
    name: typedMember.name,
    parameters: signature.parameters.map((parameter, at) => ({
      parameter,
      // Parameters that cannot be written are read from the list of all.
      code: parameters.length === signature.parameters.length ? (parameters[at]?.name ?? "") : `args[${at}]`,
    })),
    result: flow.resultOf(typedMember) ?? signature.result,
    isAsync: flow.isAsync(typedMember),
  };
}

function propertyOf(
  flow: DataFlow,
  typedMember: TypedMember,
  subsystems: readonly Subsystem[],
): PlannedMember {
  const owners = subsystems.filter(({ members }) =>
    members.some(
      ({ name, type, isMethod }) =>
        name === typedMember.name && !isMethod && flow.isAssignable(type, typedMember.type),
    ),
  );
  const [subsystem] = owners;
  if (subsystem && owners.length === 1) return { kind: "property", subsystem };
  return {
    kind: "open",
    why:
      owners.length > 1 ? `${owners.map(({ name }) => name).join(" and ")} have it` : "no subsystem has it",
  };
}

/** @throws {CliError} `BAD_OPTION` */
function requireOperations(
  { given }: WrapPlace,
  members: readonly ChosenMember[],
  wanted: readonly WantedOperation[],
): void {
  const names = members.map(({ name }) => name);
  const unknown = wanted.find(({ name }) => !names.includes(name));
  if (!unknown) return;
  const meant = nearestName(unknown.name, names);
  throw new CliError(
    "BAD_OPTION",
    `--operation ${unknown.name}: ${given} has no such member.${meant ? ` Did you mean ${meant}?` : ` It has ${names.join(", ")}.`}`,
  );
}

/** @throws {CliError} `BAD_OPTION` */
function stepsNamed(
  { name: operation, steps }: WantedOperation,
  subsystems: readonly Subsystem[],
): readonly StepMember[] {
  const stepMembers = possibleSteps(subsystems);
  return steps.map((step) => {
    const [, owner, name = step] = /^([^.]+)\.(.+)$/.exec(step) ?? [];
    const matches = stepMembers.filter(
      ({ subsystem, member }) => member.name === name && (owner === undefined || subsystem.name === owner),
    );
    const [match] = matches;
    if (match && matches.length === 1) return match;
    if (matches.length > 1)
      throw new CliError(
        "BAD_OPTION",
        `--operation ${operation}: several subsystems have ${name}. Write ${matches.map(({ subsystem }) => `${subsystem.name}.${name}`).join(" or ")}.`,
      );
    const meant = nearestName(
      step,
      stepMembers.flatMap(({ subsystem, member }) => [member.name, `${subsystem.name}.${member.name}`]),
    );
    throw new CliError(
      "BAD_OPTION",
      `--operation ${operation}: no subsystem has a method ${step}.${meant ? ` Did you mean ${meant}?` : ` The subsystems are ${subsystems.map(({ name: own }) => own).join(", ")}.`}`,
    );
  });
}
