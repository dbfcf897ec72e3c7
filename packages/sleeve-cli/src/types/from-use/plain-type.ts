import {
  type Checker,
  type CompilerSymbol,
  SignatureKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { propertyKey } from "../writing/type-text.ts";

/** Depth of nested object types that are written out. */
const MAX_DEPTH = 3;
/** Number of members of an object type that is written out. */
const MAX_MEMBERS = 24;

/**
 * Returns a type as source that mentions only types of the language, with `unknown` for all that is not known.
 * Literal types are widened: a call with `"a"` shows that the parameter takes strings.
 */
export function plainType(checker: Checker, type: Type, isGlobal: (path: string) => boolean): string {
  return new PlainTypes(checker, isGlobal).write(type, 0);
}

class PlainTypes {
  readonly #checker: Checker;
  readonly #isGlobal: (path: string) => boolean;

  constructor(checker: Checker, isGlobal: (path: string) => boolean) {
    this.#checker = checker;
    this.#isGlobal = isGlobal;
  }

  write(type: Type, depth: number): string {
    const checker = this.#checker;
    if ((type.flags & (TypeFlags.Any | TypeFlags.Unknown | TypeFlags.TypeParameter)) !== 0) return "unknown";
    if (type.isUnionType()) return unionText(type.getTypes().map((part) => this.write(part, depth)));
    for (const [flag, text] of WIDENED) if ((type.flags & flag) !== 0) return text;
    if ((type.flags & TypeFlags.Object) === 0 || depth > MAX_DEPTH) return "unknown";
    if (checker.isArrayType(type) && type.isTypeReference()) {
      const [element] = checker.getTypeArguments(type);
      return `readonly ${asElement(element ? this.write(element, depth + 1) : "unknown")}[]`;
    }
    return this.#global(type, depth) ?? this.#function(type, depth) ?? this.#data(type, depth);
  }

  /** A type of the language, or of the environment. */
  #global(type: Type, depth: number): string | undefined {
    const { name = "", declarations = [] } = type.getSymbol() ?? {};
    const isNamed = /^\p{Lu}/u.test(name) && declarations.length > 0;
    if (!isNamed || !declarations.every(({ path }) => this.#isGlobal(path))) return undefined;
    const typeArguments = type.isTypeReference() ? this.#checker.getTypeArguments(type) : [];
    const argumentTexts = typeArguments.map((argument) => this.write(argument, depth + 1));
    return argumentTexts.length > 0 ? `${name}<${argumentTexts.join(", ")}>` : name;
  }

  /** A function with one signature and no properties. */
  #function(type: Type, depth: number): string | undefined {
    const checker = this.#checker;
    const [signature, ...otherSignatures] = checker.getSignaturesOfType(type, SignatureKind.Call);
    if (!signature || otherSignatures.length > 0 || checker.getPropertiesOfType(type).length > 0)
      return undefined;
    const parameters = signature.getParameters().map((parameter, index) => {
      const isRest = signature.hasRestParameter && index === signature.getParameters().length - 1;
      return isRest
        ? `...${parameter.name}: unknown[]`
        : `${parameter.name}: ${this.#valueOf(parameter, depth)}`;
    });
    const result = checker.getReturnTypeOfSignature(signature);
    return `(${parameters.join(", ")}) => ${result ? this.write(result, depth + 1) : "unknown"}`;
  }

  #data(type: Type, depth: number): string {
    const checker = this.#checker;
    const isCalled = checker.getSignaturesOfType(type, SignatureKind.Call).length > 0;
    const properties = checker.getPropertiesOfType(type);
    if (isCalled || checker.getIndexInfosOfType(type).length > 0 || properties.length > MAX_MEMBERS)
      return "unknown";
    const members = properties
      .filter((property) => !/^(__@|#)/.test(property.name))
      .map((property) => `${propertyKey(property.name)}: ${this.#valueOf(property, depth)}`);
    return members.length === 0 ? "unknown" : `{ ${members.join("; ")} }`;
  }

  #valueOf(symbol: CompilerSymbol, depth: number): string {
    const type = this.#checker.getTypeOfSymbol(symbol);
    return type ? this.write(type, depth + 1) : "unknown";
  }
}

const WIDENED: readonly (readonly [number, string])[] = [
  [TypeFlags.String | TypeFlags.StringLiteral | TypeFlags.TemplateLiteral, "string"],
  [TypeFlags.Number | TypeFlags.NumberLiteral, "number"],
  [TypeFlags.Boolean | TypeFlags.BooleanLiteral, "boolean"],
  [TypeFlags.BigInt | TypeFlags.BigIntLiteral, "bigint"],
  [TypeFlags.ESSymbol | TypeFlags.UniqueESSymbol, "symbol"],
  [TypeFlags.Undefined, "undefined"],
  [TypeFlags.Void, "void"],
  [TypeFlags.Null, "null"],
];

/** Returns a union of types, each once; `unknown` includes all others. */
export function unionText(texts: readonly string[]): string {
  const distinct = [...new Set(texts)];
  if (distinct.length === 0 || distinct.includes("unknown")) return "unknown";
  const [onlyText] = distinct;
  if (distinct.length === 1 && onlyText !== undefined) return onlyText;
  return distinct.map((text) => (text.includes("=>") ? `(${text})` : text)).join(" | ");
}

export function asElement(text: string): string {
  return /=>| \| |^readonly /.test(text) ? `(${text})` : text;
}
