import { compiled, type FileSteps, type OwnedError } from "../emit/compile.ts";
import type { Declaration, Module } from "../emit/module.ts";
import type { Style } from "../emit/style.ts";
import { CliError } from "../errors.ts";
import type { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { LayerName } from "./layers.ts";
import { fromLibrary, importsIn, LIBRARY, standingAlone } from "./library.ts";
import type { WrapPlace } from "./place.ts";
import { planLayers, requireLayers } from "./plan-layers.ts";
import { bridgeOf } from "./render/bridge.ts";
import type { ChosenMember } from "./render/class.ts";
import { contractOf } from "./render/contract.ts";
import { decoratorOf } from "./render/decorator.ts";
import { fakeOf } from "./render/fake.ts";
import { forwarderOf } from "./render/forwarder.ts";
import { surfaceOf } from "./render/surface.ts";
import { readTarget } from "./target/read-target.ts";
import type { ReferencedImport } from "./target/referenced-types.ts";
import type { WrapMember } from "./target/signature-forms.ts";
import type { WrapTarget } from "./target/target.ts";

/** A generated wrapper that compiles. */
export interface VerifiedWrapper {
  readonly module: Module;
  /** Number of members that it has. */
  readonly members: number;
  readonly readAsFunctions: ReadonlyMap<string, string>;
  readonly refused: ReadonlyMap<string, string>;
  /** Number of members that do not compile until they are completed. */
  readonly open: number;
  readonly target: WrapTarget;
  /** The members in the forms that compile. */
  readonly chosen: readonly ChosenMember[];
  readonly imports: readonly ReferencedImport[];
  /** Whether the class implements the target by a clause. */
  readonly hasClause: boolean;
  /** The layers that some member has. */
  readonly layers: readonly LayerName[];
}

/** The forms in which the members of a wrapper are tried. */
interface Forms {
  /** The form of each member that does not have its first, and the error of the one before. */
  readonly fallbacks: ReadonlyMap<string, { readonly form: number; readonly why: string }>;
  /** The members that compile in no form, with the reasons. */
  readonly refused: ReadonlyMap<string, string>;
  /** Whether the class implements the target by a clause. */
  readonly isImplementable: boolean;
}

/**
 * Generates a wrapper and compiles it in the project. A member that does not compile as a method is read as a function; one that
 * does not compile in that way either is left out.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`, and the errors of finding the type
 */
export function* verifyWrapper(
  project: OpenProject,
  overlays: OverlayProgram,
  place: WrapPlace,
  style: Style,
): FileSteps<VerifiedWrapper> {
  const { target, members, refused, imports } = yield* readTarget(project, overlays, place);
  requireLayers(place.layers, place.given, members);
  // The keys of a class are the public ones.
  const isClass = place.kind !== "surface" && place.kind !== "contract";
  const chosenIn = ({ fallbacks, refused: leftOut }: Forms) =>
    members.flatMap((member): ChosenMember[] => {
      const form = member.forms[fallbacks.get(member.name)?.form ?? 0];
      return form && !leftOut.has(member.name) ? [{ ...member, form }] : [];
    });
  const { state, module } = yield* compiled<Forms>({
    style,
    first: {
      fallbacks: new Map(),
      refused,
      isImplementable: (target.isImplementable || !isClass) && refused.size === 0,
    },
    moduleOf: (forms) => {
      const chosen = chosenIn(forms);
      if (chosen.length === 0) throw nothingLeft(place, forms.refused);
      const { isImplementable } = forms;
      return moduleOf({ ...target, isImplementable }, place, chosen, imports);
    },
    next: (forms, errors) => {
      if (errors.some(({ owner }) => owner === LIBRARY)) throw noLibrary(place);
      return nextForms(forms, errors, members, place);
    },
  });
  const chosen = chosenIn(state);
  return {
    module,
    members: chosen.length,
    readAsFunctions: isClass ? functionsAmong(chosen, state) : new Map(),
    refused: state.refused,
    open: 0,
    target,
    chosen,
    imports,
    hasClause: state.isImplementable,
    layers: planLayers(place.layers, chosen, place.kind === "proxy").layers.map(({ name }) => name),
  };
}

/** Returns the forms to try next: the members with errors fall back, or are left out after their last form. */
function nextForms(
  { fallbacks, refused, isImplementable }: Forms,
  errors: readonly OwnedError[],
  members: readonly WrapMember[],
  place: WrapPlace,
): Forms {
  const blamed = blamedBy(errors, members);
  if (blamed.size === 0 && !isImplementable) throw doesNotCompile(place, errors);
  // Without the clause, the members that only follow from others are right.
  if (blamed.size === 0) return { fallbacks, refused, isImplementable: false };
  const nextFallbacks = new Map(fallbacks);
  const nextRefused = new Map(refused);
  let keepsClause = isImplementable;
  for (const [name, error] of blamed) {
    const form = (fallbacks.get(name)?.form ?? 0) + 1;
    const why = `the compiler reports: ${error.text}`;
    if (form < (members.find((member) => member.name === name)?.forms.length ?? 0)) {
      nextFallbacks.set(name, { form, why });
      continue;
    }
    // A member that is not the target's is left out only if it does not compile without the clause either.
    if (error.code !== NOT_AS_IN_BASE || !isImplementable) nextRefused.set(name, why);
    keepsClause = false;
  }
  return { fallbacks: nextFallbacks, refused: nextRefused, isImplementable: keepsClause };
}

/**
 * Returns the members with errors. Whether the class has the target's type depends on all of them, so those that return it, or
 * that are compared with it, count only if there are no others.
 */
function blamedBy(
  errors: readonly OwnedError[],
  members: readonly WrapMember[],
): ReadonlyMap<string, OwnedError> {
  const ofMembers = errors.filter((error) => error.code !== NOT_AS_IN_BASE && !isAboutThis(error));
  const isMethod = new Set(members.flatMap(({ name, forms }) => (forms[0]?.kind === "method" ? [name] : [])));
  const blamed = new Map<string, OwnedError>();
  for (const error of ofMembers.length > 0 ? ofMembers : errors) {
    const { owner } = error;
    if (owner === undefined || blamed.has(owner)) continue;
    if (ofMembers.length > 0 || !isMethod.has(owner)) blamed.set(owner, error);
  }
  return blamed;
}

/** The compiler's error for a member that is not assignable to the one of the target. */
const NOT_AS_IN_BASE = 2416;

/** Whether an error says that the class is not of the target's type. */
export function isAboutThis({ text }: OwnedError): boolean {
  return text.startsWith("Type 'this' is not");
}

/** Returns the methods that are read as functions, with the reasons. */
function functionsAmong(members: readonly ChosenMember[], { fallbacks }: Forms): ReadonlyMap<string, string> {
  const functions = members.filter(({ form }) => form.kind === "property" && form.isFunction);
  return new Map(
    functions.map(({ name }) => [
      name,
      fallbacks.get(name)?.why ?? "it is optional, or uses types that are not exported",
    ]),
  );
}

/** Returns the file of each kind of wrapper. */
function moduleOf(
  target: WrapTarget,
  place: WrapPlace,
  members: readonly ChosenMember[],
  imports: readonly ReferencedImport[],
): Module {
  const { kind, layers } = place;
  const declarations = declarationsOf(target, place, members);
  const module = { imports: [...importsIn(imports, place), ...fromLibrary(kind)], declarations };
  return layers.isStandalone ? standingAlone(module) : module;
}

/** The declarations of each kind of wrapper. A new kind has one entry here. */
function declarationsOf(
  target: WrapTarget,
  { kind, className, layers, implementations = [] }: WrapPlace,
  members: readonly ChosenMember[],
): readonly Declaration[] {
  switch (kind) {
    case "decorator":
    case "proxy":
      return decoratorOf(target, className, members, planLayers(layers, members, kind === "proxy"));
    case "contract":
      return contractOf(target, className, members, implementations);
    case "bridge":
      return bridgeOf(target, className, members);
    case "fake":
      return fakeOf(target, className, members);
    case "surface":
      return surfaceOf(target, className, members);
    case "forwarder":
    // Before its adaptee or its subsystems are known, a class forwards.
    case "adapter":
    case "facade":
      return forwarderOf(target, className, members);
  }
}

function noLibrary({ kind }: WrapPlace): CliError {
  return new CliError(
    "DOES_NOT_COMPILE",
    `${kind === "contract" ? "A contract uses" : "The layers use"} the library, and "sleeve" is not installed. Run npm install sleeve${kind === "contract" ? "" : ", or add --standalone"}.`,
  );
}

function nothingLeft({ given }: WrapPlace, refused: ReadonlyMap<string, string>): CliError {
  const [[name, why] = ["", ""]] = refused;
  return new CliError(
    "NOTHING_TO_WRAP",
    `${given} has no members to forward that a class can have: ${name} is left out, because ${why.replace(/\.$/, "")}.`,
  );
}

function doesNotCompile({ given }: WrapPlace, [error]: readonly OwnedError[]): CliError {
  return new CliError(
    "DOES_NOT_COMPILE",
    `No wrapper of ${given} compiles: ${error?.text ?? "the compiler gives no reason"} Nothing was written.`,
  );
}
