import { reexportName } from "../../isolation/naming.ts";
import type { OutsideUses, UsedExport } from "../../isolation/outside/outside-uses.ts";
import { openedMember, type Replacement } from "../../isolation/replacement.ts";
import type { OpenProject } from "../../project/open-project.ts";
import type { CopiedType } from "../../types/copied-types.ts";
import { Underivable } from "../../types/derived/reading/derive-context.ts";
import type { DerivedType } from "../../types/derived/shapes/derived-type.ts";
import { keptPositions } from "../../types/derived/shapes/kept-positions.ts";
import { namedObjects } from "../../types/derived/shapes/named-objects.ts";
import { promiseForm } from "../../types/derived/shapes/promise-form.ts";
import { type Shape, someShape, text } from "../../types/derived/shapes/shape.ts";
import { fieldText, memberTexts, type ShapeNames, shapeText } from "../../types/derived/shapes/shape-text.ts";
import type { UsedMembers } from "../../uses/members/used-members.ts";
import { groupsOf } from "../outline/groups.ts";
import {
  emptyOutline,
  exportChoice,
  type Implementation,
  type Outline,
  type OutlineMember,
} from "../outline/model.ts";
import { isReexported, isTypeOnly } from "../outline/reexports.ts";
import { type DerivedMember, DerivedMembers } from "./derived-members.ts";
import type { DerivedSettings, TypeFacts } from "./derived-settings.ts";
import type { UsesApartFromSetUp } from "./without-set-up.ts";

/** Maximum number of rounds until the types that keep their type parameters are known. */
const MAX_ROUNDS = 6;

/**
 * Outlines a target whose types follow from use: parameters from arguments, results from what is read.
 *
 * @throws {Underivable} if some export is used in a way that this cannot express
 */
export function derivedOutline(
  project: OpenProject,
  { uses, setUps, setUpExports }: UsesApartFromSetUp,
  used: UsedMembers,
  settings: DerivedSettings,
): Outline {
  if (uses.whole.length > 0) throw new Underivable("the module is used as a whole");
  let facts: TypeFacts = { generic: new Set(), known: new Set(), inferred: new Map() };
  for (let round = 1; ; round++) {
    const derivation = new DerivedMembers(project, uses, used, settings, facts);
    const members = derivation.members();
    const next = derivation.facts(members);
    const isSettled =
      next.generic.size === facts.generic.size &&
      next.known.size === facts.known.size &&
      [...next.inferred].every(([key, positions]) => facts.inferred.get(key)?.size === positions.size);
    if (isSettled || round >= MAX_ROUNDS) {
      const outline = new DerivedOutline(uses, settings, derivation).outline(members);
      return { ...outline, setUps, setUpExports };
    }
    facts = next;
  }
}

/** Writes derived members and types as an outline. */
class DerivedOutline {
  readonly #uses: OutsideUses;
  readonly #settings: DerivedSettings;
  readonly #derived: DerivedMembers;

  constructor(uses: OutsideUses, settings: DerivedSettings, derived: DerivedMembers) {
    this.#uses = uses;
    this.#settings = settings;
    this.#derived = derived;
  }

  /** Returns the outline with everything as source. */
  outline(members: readonly DerivedMember[]): Outline {
    const types = this.#derived.types.complete();
    const large = namedObjects(
      members.map(({ name, field }) => ({ name, field })),
      types,
      (name) => this.#derived.types.freeName(name, undefined),
    );
    const allTypes = [...large.types, ...large.created];
    const kept = keptPositions(allTypes, this.#derived.writtenArguments);
    const shapeNames: ShapeNames = {
      nameOf: (key) => allTypes.find((type) => type.key === key)?.name ?? "unknown",
      parametersOf: (key) => kept.get(key) ?? [],
      isAlias: (key) => allTypes.some((type) => type.key === key && type.alias !== undefined),
    };
    const outlineMembers = members.map((member, index) =>
      this.#outlineMember({ ...member, field: large.fields[index] ?? member.field }, shapeNames),
    );
    const reached = reachedTypes(
      [...outlineMembers.map((_, index) => large.fields[index]?.shape ?? text("")), ...this.#namedShapes()],
      allTypes,
    );
    const copied = allTypes
      .filter(({ key }) => reached.has(key))
      .map((type) => copiedType(type, shapeNames, this.#derived.writtenArguments.get(type.key) ?? []));
    const typeMembers = this.#typeMembers(shapeNames);
    return {
      ...emptyOutline(this.#settings),
      members: [...outlineMembers.map(withPromiseIfFree), ...typeMembers],
      groups: groupsOf(
        this.#settings.target,
        members.map((member, index) => ({
          key: member.key,
          text: outlineMembers[index]?.text ?? "",
          files: filesUsing(member),
        })),
        copied.map(({ name }) => name),
      ),
      types: copied,
      aliased: this.#derived.types.aliases.all(),
      reasons: new Map(allTypes.flatMap(({ key, alias }) => (alias === undefined ? [] : [[key, alias]]))),
      imports: this.#derived.types.imports.all(),
      touched: this.#uses.touched,
      choices: [...members.map(({ key }) => exportChoice(key)), ...copied.map(({ key }) => key)],
      replacements: this.#replacements(shapeNames),
    };
  }

  #namedShapes(): readonly Shape[] {
    return [...this.#derived.typeKeys.values()].map((key) => ({ kind: "reference", key, args: [] }));
  }

  #outlineMember(
    { exported, key, name, field, implementation, aliased, reexportedAs }: DerivedMember,
    shapeNames: ShapeNames,
  ): OutlineMember {
    const { isMethod } = field;
    const signatures = field.shape.kind === "function" && isMethod ? field.shape.signatures : [];
    const parameters = signatures.length === 1 ? signatures[0]?.parameters : undefined;
    const promised = implementation.kind === "call" ? promiseForm(signatures, shapeNames) : undefined;
    const standard = implementation.property !== undefined && isMethod ? "forwarded" : "direct";
    const form = this.#settings.forms.get(exportChoice(key)) ?? standard;
    return {
      key,
      specifier: exported.specifier,
      export: exported.name,
      member: name,
      form: isMethod ? "function" : "value",
      text: fieldText(name, isMethod ? field : { ...field, isReadonly: true }, shapeNames),
      parts: [],
      doc: field.doc,
      parameters: parameters?.map((parameter) => parameter.name),
      takesInstances: false,
      factory: undefined,
      callbackResult: promised && { ...promised, member: `${name}Async` },
      type: reexportedAs === undefined ? undefined : this.#typeName(exported, shapeNames),
      aliased,
      isAsserted: form === "asserted",
      implementation: {
        ...implementation,
        memberKey: field.key,
        parameters: parameters?.map((parameter) => ({ name: parameter.name, isRest: parameter.isRest })),
        form,
      },
      reexportedAs,
      isImportedByName: exported.isImportedByName,
    };
  }

  #typeName(exported: UsedExport, shapeNames: ShapeNames): string | undefined {
    const key = this.#derived.typeKeys.get(this.#derived.key(exported));
    return key === undefined ? undefined : shapeNames.nameOf(key);
  }

  /** Exports that callers use as types. */
  #typeMembers(shapeNames: ShapeNames): readonly OutlineMember[] {
    return this.#uses.exports.flatMap((exported): readonly OutlineMember[] => {
      const key = this.#derived.key(exported);
      const typeKey = this.#derived.typeKeys.get(key);
      const isValueToo = this.#derived.offered.some(
        (member) => member.exported === exported && member.reexportedAs !== undefined,
      );
      if (typeKey === undefined || isValueToo) return [];
      return [
        {
          key,
          specifier: exported.specifier,
          export: exported.name,
          member: "",
          form: "type",
          text: "",
          parts: [],
          doc: undefined,
          parameters: undefined,
          takesInstances: false,
          factory: undefined,
          callbackResult: undefined,
          type: shapeNames.nameOf(typeKey),
          aliased: undefined,
          isAsserted: false,
          reexportedAs: isReexported(exported)
            ? reexportName(this.#settings.outside, exported.specifier, exported.name)
            : undefined,
          isImportedByName: exported.isImportedByName,
        },
      ];
    });
  }

  #replacements(shapeNames: ShapeNames): ReadonlyMap<string, Replacement> {
    const replacements = new Map<string, Replacement>();
    for (const exported of this.#uses.exports) {
      const key = this.#derived.key(exported);
      const ofExport = this.#derived.offered.filter((member) => member.exported === exported);
      const memberOf = (kind: Implementation["kind"], property: string | undefined) =>
        ofExport.find(
          ({ implementation }) => implementation.kind === kind && implementation.property === property,
        )?.name;
      const opened = new Map(
        ofExport.flatMap(({ implementation, name }) =>
          implementation.property === undefined ? [] : [[implementation.property, name] as const],
        ),
      );
      const typeKey = this.#derived.typeKeys.get(key);
      replacements.set(key, {
        member: memberOf("call", undefined) ?? memberOf("value", undefined),
        factory: memberOf("construct", undefined),
        guard: memberOf("guard", undefined),
        opened: opened.size > 0 ? opened : undefined,
        type: typeKey === undefined ? undefined : shapeNames.nameOf(typeKey),
        reexportedAs:
          ofExport.find((member) => member.reexportedAs !== undefined)?.reexportedAs ??
          (isTypeOnly(exported) && isReexported(exported)
            ? reexportName(this.#settings.outside, exported.specifier, exported.name)
            : undefined),
      });
    }
    return replacements;
  }
}

/** A promise form is offered only under an unused name. */
function withPromiseIfFree(
  member: OutlineMember,
  _: number,
  members: readonly OutlineMember[],
): OutlineMember {
  const isTaken = members.some((other) => other.member === member.callbackResult?.member);
  return isTaken ? { ...member, callbackResult: undefined } : member;
}

/** Returns the files that use a member. */
function filesUsing({ exported, implementation: { property } }: DerivedMember): readonly string[] {
  const opened = property === undefined ? undefined : new Map([[property, property]]);
  const references = exported.references.filter(
    (reference) => !opened || openedMember(reference, { opened }) !== undefined,
  );
  return [...new Set(references.map(({ source }) => source.file))];
}

/** Returns the keys of the types that some shapes refer to, directly or through other types. */
function reachedTypes(shapes: readonly Shape[], types: readonly DerivedType[]): ReadonlySet<string> {
  const reached = new Set<string>();
  const reach = (shape: Shape): void => {
    someShape(shape, (part) => {
      if (part.kind !== "reference" || reached.has(part.key)) return false;
      reached.add(part.key);
      const type = types.find(({ key }) => key === part.key);
      for (const inner of type ? [type.shape, ...type.bases] : []) reach(inner);
      return false;
    });
  };
  shapes.forEach(reach);
  return reached;
}

/** Returns a type of the target as source. */
function copiedType(type: DerivedType, names: ShapeNames, writtenArguments: readonly number[]): CopiedType {
  const { key, name, outsideName, shape, bases, doc } = type;
  const positions = names.parametersOf(key);
  const parameters = positions.flatMap((position) => type.parameters[position] ?? []);
  // Callers that write fewer type arguments leave the others to the defaults.
  const hasDefaults = writtenArguments.some((count) => count < parameters.length);
  const list = parameters.map(({ name: parameter, constraint }) => {
    const constraintText = constraint ? shapeText(constraint, names) : undefined;
    const fallback = hasDefaults ? ` = ${constraintText ?? "unknown"}` : "";
    return `${parameter}${constraintText === undefined ? "" : ` extends ${constraintText}`}${fallback}`;
  });
  const members =
    shape.kind === "object"
      ? memberTexts(shape, names).map(({ name: member, field, text: source }) => ({
          name: member,
          key: field?.key,
          text: source,
          doc: field?.doc,
          isUsed: field?.isNamed === true,
        }))
      : undefined;
  return {
    name,
    key: `${key}`,
    form: formOf(type, members),
    outsideName,
    parameters: list.length > 0 ? `<${list.join(", ")}>` : "",
    parameterNames: parameters.map((parameter) => parameter.name),
    bases: bases.map((base) => shapeText(base, names)),
    isPassedBack: false,
    doc,
    members,
    text: shape.kind === "object" ? "" : shapeText(shape, names),
    mentions: [],
  };
}

function formOf({ alias, bases }: DerivedType, members: readonly unknown[] | undefined): CopiedType["form"] {
  if (alias !== undefined) return "aliased";
  return members && members.length + bases.length === 0 ? "opaque" : "own";
}
