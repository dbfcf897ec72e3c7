import {
  type Checker,
  ObjectFlags,
  SymbolFlags,
  type Type,
  type TypeParameter,
} from "../../compiler/typescript.ts";
import { docOf } from "../writing/type-text.ts";
import { ExtendedTypes } from "./extended-types.ts";
import { ifDerivable, Underivable } from "./reading/derive-context.ts";
import { shortDoc } from "./reading/member-reader.ts";
import { literalsPassedAs } from "./reading/passed-literals.ts";
import type { TypeReader } from "./reading/type-reader.ts";
import { abstracted, generalised } from "./shapes/abstracted.ts";
import type { DerivedType } from "./shapes/derived-type.ts";
import { unionOf } from "./shapes/merge-shapes.ts";
import { type Shape, someShape, text } from "./shapes/shape.ts";
import {
  type Entry,
  type Instance,
  isConcrete,
  outsideNameOf,
  parametersOf,
  type TypeRegistry,
} from "./type-registry.ts";

/** Derives the members of named types from their instances and uses. */
export class TypeDerivation {
  readonly #registry: TypeRegistry;
  readonly #extended: ExtendedTypes;

  constructor(registry: TypeRegistry) {
    this.#registry = registry;
    this.#extended = new ExtendedTypes(registry);
  }

  derive(entry: Entry): DerivedType {
    const { key, symbol, checker, name } = entry;
    const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
    const declared = checker.getDeclaredTypeOfSymbol(symbol);
    const parameters = parametersOf(checker, symbol);
    if (isAlias && this.#isComputed(declared, parameters)) throw new Underivable("it is a computed type");
    const isGeneric = parameters.length > 0 && this.#registry.options.generic.has(key);
    const doc = shortDoc(docOf(checker, symbol));
    const common = { key, name, outsideName: outsideNameOf(symbol), doc, alias: undefined };
    const concrete = [...entry.instances.values()].filter(isConcrete);
    if (isGeneric) {
      const generic = ifDerivable(this.#registry, () =>
        this.#generic(key, checker, declared, parameters, isAlias),
      );
      if (generic) return { ...common, ...generic };
      const instantiated = ifDerivable(this.#registry, () =>
        this.#fromInstances(concrete, checker, declared, parameters, isAlias),
      );
      if (instantiated) return { ...common, ...instantiated };
      const isWritten = Math.max(0, ...(this.#registry.options.writtenArguments.get(key) ?? [])) > 0;
      if (concrete.length === 0 || isWritten)
        throw new Underivable("its members are computed from its type parameters");
    }
    return { ...common, ...this.#merged(concrete, checker, declared, isAlias) };
  }

  /** Whether a type says how another one is made from its parameters. */
  #isComputed(declared: Type, parameters: readonly TypeParameter[]): boolean {
    if (declared.isConditionalType() || declared.isIndexedAccessType() || declared.isIndexType()) return true;
    const { objectFlags = 0 } = declared as { objectFlags?: number };
    return parameters.length > 0 && (objectFlags & ObjectFlags.Mapped) !== 0;
  }

  /** Derives a type without type parameters, whose members are as in any of its instances. */
  #merged(
    instances: readonly Instance[],
    checker: Checker,
    declared: Type,
    isAlias: boolean,
  ): Pick<DerivedType, "parameters" | "bases" | "shape"> {
    const [instance = { type: declared, checker, args: [] }, ...others] = instances;
    const shapes = [instance, ...others].map((concrete) =>
      this.#shapeOf(this.#registry.readersOf(concrete.checker).types, concrete.type, concrete.checker),
    );
    const bases = isAlias ? [] : this.#extended.basesOf(checker, declared, instance.args);
    return { parameters: [], bases, shape: unionOf(shapes) };
  }

  /** Derives a generic type from its instances, so that only the type parameters that differ remain. */
  #fromInstances(
    [first, ...others]: readonly Instance[],
    checker: Checker,
    declared: Type,
    parameters: readonly TypeParameter[],
    isAlias: boolean,
  ): Pick<DerivedType, "parameters" | "bases" | "shape"> | undefined {
    const names = parameters.flatMap((parameter) => parameter.getSymbol()?.name ?? []);
    if (!first) return undefined;
    const read = ({ type, checker }: Instance): Shape => {
      const { types } = this.#registry.readersOf(checker);
      return types.members.asDeclared(names, () => this.#shapeOf(types, type, checker));
    };
    const shape = others.reduce<Shape>(
      (result, instance) =>
        abstracted(result, read(instance), { names, firstArgs: first.args, secondArgs: instance.args }),
      read(first),
    );
    const { types } = this.#registry.readersOf(first.checker);
    return types.within(parameters, undefined, () => ({
      parameters: parameters.map((parameter) => types.signatures.typeParameter(parameter)),
      bases: isAlias ? [] : this.#extended.basesOf(checker, declared, undefined),
      shape: generalised(shape, names, first.args),
    }));
  }

  #generic(
    key: string,
    checker: Checker,
    declared: Type,
    parameters: readonly TypeParameter[],
    isAlias: boolean,
  ): Pick<DerivedType, "parameters" | "bases" | "shape"> {
    const { types } = this.#registry.readersOf(checker);
    const args = parameters.map(
      (parameter): Shape => ({
        kind: "parameter",
        name: parameter.getSymbol()?.name ?? "T",
        isForeign: false,
      }),
    );
    const self: Shape = { kind: "reference", key, args };
    const names = parameters.flatMap((parameter) => parameter.getSymbol()?.name ?? []);
    return types.within(parameters, self, () => ({
      parameters: parameters.map((parameter) => types.signatures.typeParameter(parameter)),
      bases: isAlias ? [] : this.#extended.basesOf(checker, declared, undefined),
      shape: types.members.asDeclared(names, () =>
        this.#withWitnesses(key, this.#shapeOf(types, declared, checker), declared, names, types),
      ),
    }));
  }

  #shapeOf(types: TypeReader, type: Type, checker: Checker): Shape {
    if (type.isUnionType()) {
      const literals = literalsPassedAs(type, this.#registry.options.files());
      if (literals.length > 0) return { kind: "union", parts: literals.map((literal) => text(literal)) };
      return this.#withoutUnused(types.structure(type));
    }
    const shape = types.members.members(type, this.#registry.ownerOf(checker, type));
    return this.#extended.withoutInherited(shape, type, checker);
  }

  /** Adds members by which the compiler infers type parameters that no used member mentions. */
  #withWitnesses(
    key: string,
    shape: Shape,
    declared: Type,
    names: readonly string[],
    types: TypeReader,
  ): Shape {
    if (shape.kind !== "object") return shape;
    let complete = shape;
    for (const position of this.#registry.options.inferred.get(key) ?? []) {
      const name = names[position] ?? "";
      if (someShape(complete, (part) => part.kind === "parameter" && part.name === name)) continue;
      const witness = types.members.witnessOf(declared, name);
      if (!witness) continue;
      const fields = new Map([...complete.fields, ...(witness.fields ?? [])]);
      complete = { ...complete, ...witness, fields };
    }
    return complete;
  }

  /** Drops objects of a union without used members, because no caller creates them. */
  #withoutUnused(shape: Shape): Shape {
    if (shape.kind !== "union") return shape;
    const isUnused = (part: Shape) => {
      const entry = part.kind === "reference" ? this.#registry.entryOf(part.key) : undefined;
      const type = entry && [...entry.instances.values()][0];
      if (!type || type.type.isUnionType()) return false;
      const members = type.checker.getPropertiesOfType(type.type);
      const owner = this.#registry.ownerOf(type.checker, type.type);
      return members.length > 0 && !members.some((member) => this.#registry.isUsedOn(member, owner));
    };
    const parts = shape.parts.filter((part) => !isUnused(part));
    return parts.length > 0 ? unionOf(parts) : shape;
  }
}
