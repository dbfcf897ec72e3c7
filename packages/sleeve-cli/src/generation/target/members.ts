import { isPublic, labelOf } from "../../compiler/symbols.ts";
import { aliasTarget, modifiersOf } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  ModifierFlags,
  type Node,
  type Signature,
  SignatureKind,
  SymbolFlags,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { resultText, signatureText, withUsableNames } from "../../types/writing/signature-parts.ts";
import { Uncopiable } from "../../types/writing/type-names.ts";
import { docOf, isReadonly, keyText } from "../../types/writing/type-text.ts";
import type { TypeWriter } from "../../types/writing/type-writer.ts";
import { stringLiteral } from "../../written-text.ts";
import type { ReferencedTypes } from "./referenced-types.ts";
import { settlementOf } from "./settlement.ts";
import type {
  CalledFunction,
  MemberForm,
  PropertyForm,
  RefusedMember,
  Settlement,
  TargetMembers,
  WrapMember,
  WrittenSignature,
} from "./signature-forms.ts";
import type { TargetReference } from "./target.ts";

/** What writes types as source. */
export interface Writing {
  readonly checker: Checker;
  readonly writer: TypeWriter;
  readonly names: ReferencedTypes;
  /** Whether signatures of functions that are values are written too. */
  readonly writesFunctions?: boolean;
}

/** A type that is longer than this is named by its member instead: `Crane["lift"]`. In characters. */
const LONGEST_TYPE = 240;

/**
 * Reads the public members of a type.
 *
 * @param target the source of the type, for types that can only be named as those of its members
 * @param reference the functions of a module are methods, and its constants are read only
 */
export function membersOf(
  writing: Writing,
  type: Type,
  target: string,
  reference: TargetReference,
): TargetMembers {
  const { checker } = writing;
  const properties = checker
    .getPropertiesOfType(type)
    .filter((property) => isPublic(property) && (property.flags & SymbolFlags.Prototype) === 0);
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const reader = new MemberReader(writing, type, target, reference);
  const members: WrapMember[] = [];
  const refused = signatureKinds(checker, type);
  const hidden: string[] = [];
  properties.forEach((property, index) => {
    const propertyType = types[index];
    const key = keyText(property);
    const name = labelOf(property);
    if (!propertyType) return;
    if (!key.startsWith("[") || WELL_KNOWN.test(key)) {
      members.push({ name, key, ...reader.read(property, propertyType, key) });
      return;
    }
    const label = name.replace(/^(?:__@|\[Symbol\.)(\w+).*$/, "[$1]");
    const constant = uniqueSymbolOf(checker, property);
    const local = constant && writing.names.nameOfConstant(constant);
    if (local === undefined) hidden.push(label);
    else
      members.push({ name: label, key: `[${local}]`, ...reader.read(property, propertyType, `[${local}]`) });
  });
  return { members, refused: [...refused, ...refusedSymbols(hidden)] };
}

/** Returns the constant that is the key of a member: `mark` for `[mark](): void`. */
function uniqueSymbolOf(checker: Checker, property: CompilerSymbol): CompilerSymbol | undefined {
  const node = property.declarations[0]?.resolve() as
    | (Node & { name?: Node & { expression?: Node } })
    | undefined;
  const expression = node?.name?.expression;
  if (expression?.kind !== SyntaxKind.Identifier) return undefined;
  const symbol = checker.getSymbolAtLocation(expression);
  const constant = symbol && aliasTarget(checker, symbol);
  return constant && isExportedInWords(constant) ? constant : undefined;
}

/** Whether a constant is exported by a keyword. Declaration files export all others too, which may not exist at run time. */
function isExportedInWords(symbol: CompilerSymbol): boolean {
  const statement = symbol.valueDeclaration?.resolve()?.parent?.parent;
  if (!statement) return false;
  if ((modifiersOf(statement) & ModifierFlags.Export) !== 0) return true;
  const lists = statement
    .getSourceFile()
    .getText()
    .matchAll(/\bexport\s*\{([^}]*)\}/g);
  return [...lists].some(([, names = ""]) => names.split(/[^\w$]+/).includes(symbol.name));
}

/** Many packages keep their internals under symbols that clients cannot name. These are one entry. */
function refusedSymbols(hidden: readonly string[]): readonly RefusedMember[] {
  if (hidden.length <= MOST_SYMBOLS)
    return hidden.map((name) => ({ name, reason: "its key is a symbol that no name leads to" }));
  return [
    {
      name: "[symbols]",
      reason: `${hidden.length} keys are symbols that no name leads to: ${hidden.join(", ")}`,
    },
  ];
}

/** Number of such members that are listed alone. */
const MOST_SYMBOLS = 3;

/** Keys that are symbols of the language. */
const WELL_KNOWN =
  /^\[Symbol\.(asyncDispose|asyncIterator|dispose|hasInstance|isConcatSpreadable|iterator|match|matchAll|metadata|replace|search|species|split|toPrimitive|toStringTag|unscopables)\]$/;

class MemberReader {
  readonly #checker: Checker;
  readonly #writer: TypeWriter;
  readonly #names: ReferencedTypes;
  readonly #type: Type;
  readonly #target: string;
  readonly #reference: TargetReference;
  readonly #writesFunctions: boolean;
  readonly #settlements = new Map<Signature, Settlement>();

  constructor(
    { checker, writer, names, writesFunctions = false }: Writing,
    type: Type,
    target: string,
    reference: TargetReference,
  ) {
    this.#writesFunctions = writesFunctions;
    this.#reference = reference;
    this.#checker = checker;
    this.#writer = writer;
    this.#names = names;
    this.#type = type;
    this.#target = target;
  }

  read(property: CompilerSymbol, type: Type, key: string): Omit<WrapMember, "name" | "key"> {
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const isMethod = this.#isMethod(property);
    const present = isOptional ? (this.#checker.getNonNullableType(type) ?? type) : type;
    const calls = this.#checker.getSignaturesOfType(present, SignatureKind.Call);
    const index = key.startsWith("[") ? `typeof ${key.slice(1, -1)}` : stringLiteral(property.name);
    const doc = docOf(this.#checker, property, calls);
    const isCalled = calls.length > 0;
    const forms =
      isMethod && !isOptional && isCalled
        ? this.#methodForms(calls, index)
        : this.#propertyForms(property, isOptional ? undefined : type, calls, index, isMethod);
    return { doc, isOptional, isCalled, forms };
  }

  #isMethod(property: CompilerSymbol): boolean {
    switch (this.#reference) {
      case "function":
        return true;
      case "module":
        return (aliasTarget(this.#checker, property).flags & SymbolFlags.Function) !== 0;
      default:
        return (property.flags & SymbolFlags.Method) !== 0;
    }
  }

  /** The forms of a property; without a type, those of an optional one. */
  #propertyForms(
    property: CompilerSymbol,
    type: Type | undefined,
    calls: readonly Signature[],
    index: string,
    isMethod: boolean,
  ): readonly PropertyForm[] {
    const isFunction = isMethod && calls.length > 0;
    const isOnlyRead = isReadonly(property) || isMethod || this.#reference === "module";
    const setter = setterTypeOf(this.#checker, property);
    const set = setter && this.#written(setter, "in");
    const formOf = (text: string, assertion?: string): PropertyForm => ({
      kind: "property",
      type: text,
      written: isOnlyRead ? undefined : (set ?? text),
      isFunction,
      assertion: assertion ?? (isFunction ? text : undefined),
      called: calls.length > 0 ? this.#called(calls) : undefined,
    });
    const indexed = formOf(`${this.#target}[${index}]`);
    if (!type) {
      // With `exactOptionalPropertyTypes`, no getter can have an optional type.
      const required = `Required<${this.#target}>[${index}]`;
      return [indexed, formOf(required, required)];
    }
    const typeText = this.#written(type, "out");
    return typeText === undefined ? [indexed] : [formOf(typeText), indexed];
  }

  #methodForms(calls: readonly Signature[], index: string): readonly MemberForm[] {
    const indexed = `${this.#target}[${index}]`;
    // Such a function is called on something else than the object that it is read from.
    if (calls.some((call) => this.#isForOthers(call)))
      return [
        {
          kind: "property",
          type: indexed,
          written: undefined,
          isFunction: false,
          assertion: undefined,
          called: this.#called(calls),
        },
      ];
    const signatures = attempt(() => calls.map((call) => this.#signatureOf(call)));
    const isShort = signatures?.every(({ text }) => text.length <= 2 * LONGEST_TYPE) === true;
    const [onlyCall] = calls;
    const isPlain = onlyCall !== undefined && calls.length === 1 && onlyCall.getTypeParameters().length === 0;
    const called = this.#called(calls);
    return [
      ...(signatures && isShort ? [{ kind: "method" as const, signatures }] : []),
      ...(isPlain
        ? [
            {
              kind: "method" as const,
              signatures: [this.#indexedSignature(onlyCall, indexed, signatures?.[0])],
            },
          ]
        : []),
      ...[indexed, "never"].map((assertion) => ({
        kind: "property" as const,
        type: indexed,
        written: undefined,
        isFunction: true,
        assertion,
        called,
      })),
    ];
  }

  /** Whether a function declares a `this` that the target is not. */
  #isForOthers(signature: Signature): boolean {
    const receiver = signature.getThisParameter();
    const type = receiver && this.#checker.getTypeOfSymbol(receiver);
    return type !== undefined && !this.#checker.isTypeAssignableTo(this.#type, type);
  }

  #signatureOf(signature: Signature): WrittenSignature {
    const parts = withUsableNames(
      attempt(() => this.#writer.signatureParts(signature, "out")) ?? this.#names.declared(signature),
    );
    const { parameters, typeParameters, result } = parts;
    return {
      text: signatureText(parts, ": "),
      isGeneric: typeParameters !== "",
      parameters: parameters.filter(({ name }) => name !== "this"),
      result: resultText(result),
      isAssertion: typeof result !== "string" && result.isAssertion,
      ...this.#resultOf(signature, resultText(result)),
    };
  }

  /**
   * Names the parameters as those of the member.
   *
   * @param written the signature with its own parameters, if it could be written
   */
  #indexedSignature(
    signature: Signature,
    indexed: string,
    written: WrittenSignature | undefined,
  ): WrittenSignature {
    const shortResult = written && written.result.length <= LONGEST_TYPE ? written.result : undefined;
    const returned =
      shortResult === undefined ? this.#checker.getReturnTypeOfSignature(signature) : undefined;
    const result = shortResult ?? (returned && this.#written(returned, "out")) ?? `ReturnType<${indexed}>`;
    const parameter = { name: "args", isRest: true, isOptional: false, type: `Parameters<${indexed}>` };
    const { mayBeTarget, settlement, names } = written ?? this.#resultOf(signature, result);
    return {
      text: `(...args: ${parameter.type}): ${result}`,
      isGeneric: false,
      parameters: [parameter],
      result,
      isAssertion: written?.isAssertion === true,
      mayBeTarget,
      settlement,
      names,
    };
  }

  #resultOf(
    signature: Signature,
    result: string,
  ): Pick<WrittenSignature, "mayBeTarget" | "settlement" | "names"> {
    return {
      mayBeTarget: this.#mayBeTarget(signature, result),
      settlement: this.#settlementOf(signature),
      names: signature.getParameters().map(({ name }) => name),
    };
  }

  /** Several forms of a member have the same signature. */
  #settlementOf(signature: Signature): Settlement {
    const cached = this.#settlements.get(signature);
    if (cached !== undefined) return cached;
    const settlement = settlementOf(this.#checker, signature);
    this.#settlements.set(signature, settlement);
    return settlement;
  }

  #called(calls: readonly Signature[]): CalledFunction {
    const [firstSettlement, ...others] = calls.map((call) => this.#settlementOf(call));
    return {
      settlement:
        firstSettlement !== undefined && others.every((settlement) => settlement === firstSettlement)
          ? firstSettlement
          : "any",
      names: calls[0]?.getParameters().map(({ name }) => name) ?? [],
      signatures: this.#writesFunctions
        ? (attempt(() => calls.map((call) => this.#signatureOf(call))) ?? [])
        : [],
    };
  }

  /** Whether a result may be an object of the target's type, and so the subject itself. */
  #mayBeTarget(signature: Signature, result: string): boolean {
    if (result === "this") return true;
    const returned = this.#checker.getReturnTypeOfSignature(signature);
    return (
      returned !== undefined && !isVoid(returned) && this.#checker.isTypeAssignableTo(this.#type, returned)
    );
  }

  /** Returns the source of a type; `undefined` if it cannot be written, or only at length. */
  #written(type: Type, direction: "in" | "out"): string | undefined {
    const text = attempt(() => this.#writer.write(type, direction));
    return text !== undefined && text.length <= LONGEST_TYPE ? text : undefined;
  }
}

/** Call, construct and index signatures are not members of a class. */
function signatureKinds(checker: Checker, type: Type): RefusedMember[] {
  const refused: RefusedMember[] = [];
  if (checker.getSignaturesOfType(type, SignatureKind.Call).length > 0)
    refused.push({ name: "()", reason: "an instance of a class cannot be called" });
  if (checker.getSignaturesOfType(type, SignatureKind.Construct).length > 0)
    refused.push({ name: "new ()", reason: "an instance of a class cannot be constructed" });
  if (checker.getIndexInfosOfType(type).length > 0)
    refused.push({ name: "[]", reason: "a class cannot forward keys that are not known" });
  return refused;
}

function isVoid({ flags }: Type): boolean {
  return (flags & (TypeFlags.Void | TypeFlags.Undefined | TypeFlags.TypeParameter)) !== 0;
}

/** Returns the type that a setter takes, if it is declared apart from the getter. */
function setterTypeOf(checker: Checker, property: CompilerSymbol): Type | undefined {
  if ((property.flags & SymbolFlags.SetAccessor) === 0) return undefined;
  const setter = property.declarations
    .map((declaration) => declaration.resolve())
    .find((node) => node?.kind === SyntaxKind.SetAccessor) as
    | (Node & { parameters?: readonly (Node & { type?: Node })[] })
    | undefined;
  const type = setter?.parameters?.[0]?.type;
  return type && checker.getTypeFromTypeNode(type as never);
}

function attempt<Result>(write: () => Result): Result | undefined {
  try {
    return write();
  } catch (error) {
    if (!(error instanceof Uncopiable)) throw error;
    return undefined;
  }
}
