import { isPublic } from "../../compiler/symbols.ts";
import { modifiersOf } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  ModifierFlags,
  ObjectFlags,
  type Signature,
  SignatureKind,
  SymbolFlags,
  SyntaxKind,
  type Type,
} from "../../compiler/typescript.ts";

import { stringLiteral } from "../../written-text.ts";
import { signatureText } from "./signature-parts.ts";
import type { SignatureWriter } from "./signature-writer.ts";
import {
  type Direction,
  memberKey,
  type Owner,
  type TypeNames,
  Uncopiable,
  type WritesTypes,
  type WrittenMember,
} from "./type-names.ts";
import { docOf, isReadonly, keyText } from "./type-text.ts";

/** Writes the members of object types as source. */
export class TypeMembers {
  readonly #checker: Checker;
  readonly #names: TypeNames;
  readonly #types: WritesTypes;
  readonly #signatures: SignatureWriter;

  constructor(checker: Checker, names: TypeNames, types: WritesTypes, signatures: SignatureWriter) {
    this.#checker = checker;
    this.#names = names;
    this.#types = types;
    this.#signatures = signatures;
  }

  /**
   * Writes the wanted members of an object type: call, construct and index signatures, and properties. `symbol`
   * is what callers use. Default: the type's own.
   */
  all(type: Type, direction: Direction, owner?: Owner, symbol = type.getSymbol()): readonly WrittenMember[] {
    const checker = this.#checker;
    const signatureMember = (name: string, text: string): WrittenMember => ({
      name,
      text,
      doc: undefined,
      isUsed: true,
    });
    const properties = checker.getPropertiesOfType(type);
    const wantedProperties = properties.filter(
      (property) => isPublic(property) && this.#names.isWanted(property, type, direction),
    );
    const select = (signatures: readonly Signature[]) => {
      if (!symbol) return signatures;
      // Of a function that is only used for its members, nothing is called.
      return wantedProperties.length > 0 && this.#names.isOnlyReceiver(symbol)
        ? []
        : this.#names.wanted(symbol, signatures);
    };
    const calls = select(checker.getSignaturesOfType(type, SignatureKind.Call));
    const constructs = select(checker.getSignaturesOfType(type, SignatureKind.Construct)).filter(
      isPublicConstructor,
    );
    const indexes = checker.getIndexInfosOfType(type);
    const isMapped = ((type as { objectFlags?: number }).objectFlags ?? 0) & ObjectFlags.Mapped;
    if (isMapped && properties.length === 0 && indexes.length === 0)
      throw new Uncopiable("it is a mapped type");
    return [
      ...calls.flatMap((call) =>
        this.#signatures
          .eitherWay(symbol, call, "", (signature) =>
            signatureText(this.#signatures.parts(signature, direction), ": "),
          )
          .map((text) => ({
            ...signatureMember("()", text),
            takesInstances: this.#names.takesInstances(call),
          })),
      ),
      ...constructs.map((construct) =>
        signatureMember("new ()", `new ${signatureText(this.#signatures.parts(construct, direction), ": ")}`),
      ),
      ...indexes.map(({ keyType, valueType, isReadonly }) =>
        signatureMember(
          "[]",
          `${isReadonly ? "readonly " : ""}[key: ${this.#types.write(keyType, direction)}]: ${this.#types.write(valueType, direction)}`,
        ),
      ),
      ...this.properties(wantedProperties, direction, owner),
    ];
  }

  /** Writes some properties of an object. */
  properties(
    properties: readonly CompilerSymbol[],
    direction: Direction,
    owner: Owner | undefined,
  ): readonly WrittenMember[] {
    const types = properties.length > 0 ? this.#checker.getTypeOfSymbol(properties) : [];
    return properties.flatMap((property, index): WrittenMember[] => {
      const type = types[index];
      if (!type || (property.flags & SymbolFlags.Prototype) !== 0) return [];
      const text = this.property(property, keyText(property), type, direction, owner);
      const key = memberKey(property);
      const isUsed = this.#names.isUsed(property);
      return [{ name: property.name, key, text, doc: this.#docOf(property, type), isUsed }];
    });
  }

  #docOf(property: CompilerSymbol, type: Type): string | undefined {
    const signatures = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    return docOf(this.#checker, property, this.#names.wanted(property, signatures));
  }

  /**
   * Writes one property or method; each overload on a line of its own. A member that cannot be copied has the
   * type of the outside member, if its owner is known.
   */
  property(
    property: CompilerSymbol,
    name: string,
    type: Type,
    direction: Direction,
    owner: Owner | undefined,
  ): string {
    if (!owner || name.startsWith("[")) return this.#property(property, name, type, direction, undefined);
    const label = `${isReadonly(property) ? "readonly " : ""}${name}`;
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const outside: Owner = () => `${owner()}[${stringLiteral(property.name)}]`;
    const aliased = () => `${label}${isOptional ? "?" : ""}: ${outside()}`;
    if (this.#names.isAliased(property)) return aliased();
    try {
      return this.#names.attempt(() => this.#property(property, name, type, direction, outside));
    } catch (error) {
      if (!(error instanceof Uncopiable)) throw error;
      return this.#names.attempt(aliased);
    }
  }

  #property(
    property: CompilerSymbol,
    name: string,
    type: Type,
    direction: Direction,
    outside: Owner | undefined,
  ): string {
    const checker = this.#checker;
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const bare = isOptional ? (checker.getNonNullableType(type) ?? type) : type;
    const calls = checker.getSignaturesOfType(bare, SignatureKind.Call);
    const signatures = this.#names.wanted(property, calls);
    const isFunction =
      isMethod(property, calls) &&
      checker.getSignaturesOfType(bare, SignatureKind.Construct).length === 0 &&
      checker.getPropertiesOfType(bare).every((symbol) => !this.#names.isWanted(symbol, bare, direction));
    const label = `${name}${isOptional ? "?" : ""}`;
    if (isFunction && signatures.length > 0)
      return this.#signatures.overloads(property, signatures, label, direction);
    const write = () =>
      isOptional ? this.#types.withoutUndefined(type, direction) : this.#types.write(type, direction);
    const typeText = this.#types.isInline(type)
      ? this.#types.inline(type, direction, isOptional ? undefined : outside)
      : write();
    return `${isReadonly(property) ? "readonly " : ""}${label}: ${typeText}`;
  }
}

/**
 * Whether a member is a method, or a constant or property that holds a declared function. Their parameters are
 * compared in both directions, unlike those of a function type.
 */
function isMethod({ flags }: CompilerSymbol, signatures: readonly Signature[]): boolean {
  if ((flags & (SymbolFlags.Method | SymbolFlags.Function | SymbolFlags.Variable | SymbolFlags.Alias)) !== 0)
    return true;
  return (
    (flags & SymbolFlags.Optional) === 0 &&
    signatures.length > 0 &&
    signatures.every(({ declaration }) => declaration !== undefined && FUNCTIONS.has(declaration.kind))
  );
}

const FUNCTIONS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.FunctionDeclaration,
  SyntaxKind.MethodDeclaration,
  SyntaxKind.MethodSignature,
]);

function isPublicConstructor({ declaration }: Signature): boolean {
  const node = declaration?.resolve();
  return !node || (modifiersOf(node) & (ModifierFlags.Private | ModifierFlags.Protected)) === 0;
}
