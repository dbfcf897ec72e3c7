import { aliasTarget, isClassSymbol } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "../../compiler/typescript.ts";
import {
  exportKey,
  factoryName,
  GLOBAL_TYPES,
  guardName,
  isWholeExport,
  memberName,
  openedName,
  reexportName,
} from "../../isolation/naming.ts";
import type { OutsideUses, UsedExport } from "../../isolation/outside/outside-uses.ts";
import { exportedAsIn, originIn } from "../../isolation/type-origin.ts";
import { filesReachedFrom } from "../../project/affected-files.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { DerivedTypes } from "../../types/derived/derived-types.ts";
import type { CheckedFile } from "../../types/derived/reading/derive-context.ts";
import { declarationKeyOf, type Owner, Underivable } from "../../types/derived/reading/derive-context.ts";
import { shortDoc } from "../../types/derived/reading/member-reader.ts";
import { signaturesFromCalls } from "../../types/derived/reading/signatures-from-calls.ts";
import { inferredParameters } from "../../types/derived/shapes/inferred-parameters.ts";
import { type Field, text } from "../../types/derived/shapes/shape.ts";
import { memberKey } from "../../types/writing/type-names.ts";
import { asTypeName, camelCase, docOf } from "../../types/writing/type-text.ts";
import type { UsedMembers } from "../../uses/members/used-members.ts";
import { stringLiteral } from "../../written-text.ts";
import { exportChoice, type Implementation } from "../outline/model.ts";
import { isReexported, isTypeOnly, obstacleTo } from "../outline/reexports.ts";
import type { DerivedSettings, TypeFacts } from "./derived-settings.ts";
import { distinctMembers, withDistinctNames } from "./distinct-members.ts";
import { FUNCTION_MEMBERS, isReceiver, methodField, obstacleToUse } from "./used-exports.ts";

/** A member of the target, before it is written as source. */
export interface DerivedMember {
  readonly exported: UsedExport;
  readonly key: string;
  readonly name: string;
  readonly field: Field;
  readonly implementation: Omit<Implementation, "parameters" | "form">;
  /** Why it has the type of the outside value. */
  readonly aliased?: string | undefined;
  /** The name under which the adapter's module exports it, for files that re-export it. */
  readonly reexportedAs?: string | undefined;
}

/** Derives the members of a target from the exports that a project uses. */
export class DerivedMembers {
  readonly #uses: OutsideUses;
  readonly #settings: DerivedSettings;
  readonly #used: UsedMembers;
  readonly types: DerivedTypes;
  readonly #checker: Checker;
  readonly typeKeys = new Map<string, string>();
  /** Numbers of type arguments that callers write for the types they name. */
  readonly writtenArguments = new Map<string, readonly number[]>();
  /** Members for all exports; two exports of one thing have one name. */
  offered: readonly DerivedMember[] = [];

  constructor(
    project: OpenProject,
    uses: OutsideUses,
    used: UsedMembers,
    settings: DerivedSettings,
    { generic, known, inferred }: TypeFacts,
  ) {
    const { checker, outside, names, target, object, untyped } = settings;
    if (!checker) throw new Underivable("nothing is used");
    this.#checker = checker;
    this.#uses = uses;
    this.#used = used;
    this.#settings = settings;
    this.types = new DerivedTypes({
      originOf: originIn(project, outside),
      exportedAs: exportedAsIn(project),
      used,
      untyped,
      generic,
      namedSymbols: new Set(
        uses.exports
          .filter(({ kinds }) => kinds.has("type"))
          .flatMap(({ symbol }) => declarationKeyOf(symbol) ?? []),
      ),
      writtenArguments: this.writtenArguments,
      known,
      inferred,
      aliased: this.#settings.aliased,
      paths: this.#settings.paths,
      names,
      taken: new Set([target, object, ...GLOBAL_TYPES]),
      files: () => checkedFiles(project, uses),
    });
  }

  /** Returns the members of the target, each derived from its uses. */
  members(): readonly DerivedMember[] {
    const members = this.#uses.exports.flatMap((exported) => this.#attempt(exported));
    this.types.complete();
    this.offered = withDistinctNames(members);
    return distinctMembers(this.offered);
  }

  facts(members: readonly DerivedMember[]): TypeFacts {
    const writtenKeys = [...this.writtenArguments].filter(([, counts]) => Math.max(0, ...counts) > 0);
    const shapes = members.map(({ field }) => field.shape);
    const inferred = inferredParameters(shapes, this.types.complete());
    const generic = new Set([
      ...inferred.keys(),
      ...this.types.genericKeys(shapes),
      ...writtenKeys.map(([key]) => key),
    ]);
    return { generic, known: this.types.keys(), inferred };
  }

  #attempt(exported: UsedExport): readonly DerivedMember[] {
    try {
      return this.types.attempt(() => this.#membersOf(exported)) ?? [];
    } catch (error) {
      if (!(error instanceof Underivable)) throw error;
      const alias = this.#aliasOf(exported, error.message);
      if (!alias) throw error;
      return [alias];
    }
  }

  /** Returns a member with the type of the outside value; `undefined` if callers need more than a member. */
  #aliasOf(exported: UsedExport, reason: string): DerivedMember | undefined {
    const { specifier, name, kinds, symbol } = exported;
    const { outside, names } = this.#settings;
    if (!symbol || obstacleTo(exported) || isReexported(exported) || isTypeOnly(exported)) return undefined;
    if (kinds.has("type query") || kinds.size === 0) return undefined;
    const key = this.key(exported);
    return {
      exported,
      key,
      name: memberName(outside, specifier, name, names),
      field: this.#aliasField(exported, undefined),
      implementation: { kind: "value", property: undefined },
      aliased: reason,
    };
  }

  #aliasField({ specifier, name, symbol }: UsedExport, property: string | undefined): Field {
    const { outside, names } = this.#settings;
    const member = memberName(outside, specifier, name, names);
    const isClass = symbol !== undefined && isClassSymbol(symbol);
    const alias = this.types.ofValue(
      { specifier, names: name.split(".") },
      `${asTypeName(member)}${isClass ? "Class" : "Value"}`,
    );
    const source = property === undefined ? alias : `${alias}[${stringLiteral(property)}]`;
    return { shape: text(source), isOptional: false, isReadonly: true, isMethod: false };
  }

  key({ specifier, name }: UsedExport): string {
    return exportKey(this.#settings.outside, specifier, name);
  }

  #membersOf(exported: UsedExport): readonly DerivedMember[] {
    const { symbol, kinds } = exported;
    const chosen = this.#settings.forms.get(exportChoice(this.key(exported)));
    const reason = chosen === "aliased" ? "its type does not compile otherwise" : obstacleToUse(exported);
    if (reason !== undefined || !symbol) throw new Underivable(reason ?? "it has no types");
    if (kinds.has("type")) this.#name(exported, symbol);
    if (isTypeOnly(exported)) return [];
    const type = this.#checker.getTypeOfSymbol(symbol);
    if (!type) throw new Underivable("it has no type");
    if (isReexported(exported)) return [this.#reexported(exported, symbol, type)];
    if (isClassSymbol(symbol) || kinds.has("new")) return this.#classMembers(exported, symbol, type);
    return this.#valueMembers(exported, symbol, type);
  }

  /** Creates the type that replaces an export, with as many type parameters as callers write. */
  #name(exported: UsedExport, symbol: CompilerSymbol): void {
    const { key } = this.types.named(this.#checker, symbol);
    this.typeKeys.set(this.key(exported), key);
    const counts = exported.references
      .filter(({ kind }) => kind === "type")
      .map(
        ({ node }) =>
          (node.parent as typeof node & { typeArguments?: readonly unknown[] }).typeArguments?.length ?? 0,
      );
    this.writtenArguments.set(key, [...(this.writtenArguments.get(key) ?? []), ...counts]);
  }

  /** What a file of the project re-exports keeps its form, for the clients of that file. */
  #reexported(exported: UsedExport, symbol: CompilerSymbol, type: Type): DerivedMember {
    const { specifier, name } = exported;
    const { outside, names } = this.#settings;
    if (isClassSymbol(symbol) && !this.typeKeys.has(this.key(exported))) this.#name(exported, symbol);
    const shape = this.types.readersOf(this.#checker).types.read(type);
    const isMethod = shape.kind === "function" && shape.isNew !== true;
    const doc = shortDoc(this.#docOf(symbol, type));
    return {
      exported,
      key: this.key(exported),
      name: memberName(outside, specifier, name, names),
      field: { shape, isOptional: false, isReadonly: !isMethod, isMethod, doc, key: memberKey(symbol) },
      implementation: { kind: isMethod ? "call" : "value", property: undefined },
      reexportedAs: reexportName(outside, specifier, name),
    };
  }

  /** A class that is constructed is a factory; one that values are compared with is a type guard. */
  #classMembers(exported: UsedExport, symbol: CompilerSymbol, type: Type): readonly DerivedMember[] {
    const { specifier, name, kinds } = exported;
    const { outside, names } = this.#settings;
    const isOnlyReceiver = exported.references.every(({ kind, node }) => kind !== "read" || isReceiver(node));
    if (kinds.has("call") || kinds.has("shorthand") || !isOnlyReceiver)
      throw new Underivable("a class is used as a value");
    const members: DerivedMember[] = [];
    const common = { exported, key: this.key(exported) };
    if (kinds.has("new")) {
      const signatures = signaturesFromCalls(this.#used.callSites(symbol), (checker) =>
        this.types.readersOf(checker),
      );
      members.push({
        ...common,
        name: factoryName(outside, specifier, name, names),
        field: methodField({ kind: "function", signatures }, shortDoc(docOf(this.#checker, symbol))),
        implementation: { kind: "construct", property: undefined },
      });
    }
    if (kinds.has("instanceof")) members.push(this.#guard(exported, type, common));
    if (isWholeExport(name)) return [...members, ...this.#openedMembers(exported, type, true)];
    const { types } = this.types.readersOf(this.#checker);
    const statics = types.members.statics(type);
    if (statics.fields.size === 0) return members;
    return [
      ...members,
      {
        ...common,
        name: memberName(outside, specifier, name, names),
        field: { shape: statics, isOptional: false, isReadonly: true, isMethod: false },
        implementation: { kind: "value", property: undefined },
      },
    ];
  }

  #guard(exported: UsedExport, type: Type, common: Pick<DerivedMember, "exported" | "key">): DerivedMember {
    const { outside, names } = this.#settings;
    const [construct] = this.#checker.getSignaturesOfType(type, SignatureKind.Construct);
    const instance = construct && this.#checker.getReturnTypeOfSignature(construct);
    const symbol = instance?.getSymbol();
    if (!symbol) throw new Underivable("it cannot be constructed");
    const shape = this.types.named(this.#checker, symbol);
    return {
      ...common,
      name: guardName(outside, exported.specifier, exported.name, names),
      field: methodField({
        kind: "function",
        signatures: [
          {
            typeParameters: [],
            parameters: [{ name: "value", shape: text("unknown"), isOptional: false, isRest: false }],
            result: { kind: "predicate", parameter: "value", isAssertion: false, shape },
          },
        ],
      }),
      implementation: { kind: "guard", property: undefined },
    };
  }

  #valueMembers(exported: UsedExport, symbol: CompilerSymbol, type: Type): readonly DerivedMember[] {
    const { specifier, name } = exported;
    const { outside, names, object } = this.#settings;
    const isFunction = this.#checker.getSignaturesOfType(type, SignatureKind.Call).length > 0;
    const opened = isWholeExport(name) ? this.#openedMembers(exported, type, isFunction) : [];
    if (opened.length > 0 && !exported.kinds.has("call")) {
      if (exported.references.some(({ node }) => !isReceiver(node)))
        throw new Underivable("an object is used as a whole");
      return opened;
    }
    const field = this.types.readersOf(this.#checker).types.members.field(symbol, type, undefined);
    const isCalled = exported.kinds.has("call");
    const signatures = isCalled ? this.types.signaturesOf(symbol, undefined) : undefined;
    const calledField = signatures
      ? {
          ...methodField({ kind: "function", signatures }, shortDoc(this.#docOf(symbol, type))),
          key: memberKey(symbol),
        }
      : field;
    const member = {
      exported,
      key: this.key(exported),
      name: memberName(outside, specifier, name, names),
      field: calledField,
      implementation: { kind: isFunction ? ("call" as const) : ("value" as const), property: undefined },
    };
    // `crane.crane(3)` would say nothing.
    const isNamedAfterResult = opened.length > 0 || (isFunction && isCalled && member.name === object);
    return [isNamedAfterResult ? { ...member, name: this.#callName(member) } : member, ...opened];
  }

  #docOf(symbol: CompilerSymbol, type: Type): string | undefined {
    const declared = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    return docOf(this.#checker, symbol, this.#used.called(symbol, declared));
  }

  /** A call of a value that has members too is named after what it returns. */
  #callName({ key, name, field }: DerivedMember): string {
    const { names, object } = this.#settings;
    const isConfigured = Object.hasOwn(names, key) && names[key] !== object;
    if (isConfigured) return name;
    const [signature] = field.shape.kind === "function" ? field.shape.signatures : [];
    const result = signature?.result;
    const shape = result?.kind === "value" ? result.shape : undefined;
    if (shape?.kind !== "reference") return name === object ? "call" : name;
    const noun = camelCase(this.types.nameOf(shape.key));
    return noun === object ? "of" : noun;
  }

  /** Returns the used members of an export as members of the target. */
  #openedMembers(exported: UsedExport, type: Type, isFunction: boolean): readonly DerivedMember[] {
    const checker = this.#checker;
    const { types } = this.types.readersOf(checker);
    const owner: Owner = { keys: new Set(), nodes: new Set(exported.references.map(({ node }) => node)) };
    const properties = checker
      .getPropertiesOfType(type)
      .filter((property) => (property.flags & SymbolFlags.Prototype) === 0)
      .filter((property) => this.types.isUsedOn(property, owner))
      .filter((property) => !isFunction || !FUNCTION_MEMBERS.has(property.name));
    const key = this.key(exported);
    const propertyTypes = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
    return properties.flatMap((property, index): readonly DerivedMember[] => {
      const propertyType = propertyTypes[index];
      if (!propertyType) return [];
      // Two exports of one thing are one member, whose uses are those of both.
      const declaredKey = memberKey(aliasTarget(checker, property));
      const isShared = this.#uses.exports.some(
        ({ symbol }) => symbol !== undefined && memberKey(symbol) === declaredKey,
      );
      const common = {
        exported,
        key: `${key}.${property.name}`,
        name: openedName(key, property.name, this.#settings.names),
      };
      try {
        if (this.#settings.forms.get(exportChoice(common.key)) === "aliased")
          throw new Underivable("its type does not compile otherwise");
        const field = this.types.attempt(() =>
          types.members.field(property, propertyType, isShared ? undefined : owner),
        );
        if (!field) return [];
        const kind = field.isMethod ? "call" : "value";
        // Whatever its declaration says, a function may use the object that it is a member of.
        return [
          {
            ...common,
            field: { ...field, key: declaredKey },
            implementation: { kind, property: property.name },
          },
        ];
      } catch (error) {
        if (!(error instanceof Underivable)) throw error;
        return [
          {
            ...common,
            field: this.#aliasField(exported, property.name),
            implementation: { kind: "value", property: property.name },
            aliased: error.message,
          },
        ];
      }
    });
  }
}

function checkedFiles(project: OpenProject, uses: OutsideUses): readonly CheckedFile[] {
  const importing = uses.files.map(({ source }) => source.path);
  return [...filesReachedFrom(project, importing)].flatMap((path) => {
    const source = project.program.sourceFile(path);
    const checker = project.program.checkerFor(path);
    return source && checker ? [{ source, checker }] : [];
  });
}
