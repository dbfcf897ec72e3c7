import { type Checker, SignatureKind, type Type, TypeFlags } from "../../compiler/typescript.ts";
import {
  isGenericType,
  isOpenType,
  NULLISH,
  promisedType,
  type TypedMember,
  typedMembersOf,
} from "./adaptee.ts";
import { isErrorNumber, translatedValue, valueInList } from "./enumerations.ts";

/** A value in another type, as an expression. */
export interface Converted {
  readonly text: string;
  /** How far the types are apart, from 0 to 1. */
  readonly cost: number;
  /** What is done to the value; nothing if it stays as it is. */
  readonly notes: readonly string[];
  /** When the value cannot be converted, which throws. */
  readonly refused?: Refused;
}

/** When a value cannot be converted, as an expression, and what the error says of it. */
export interface Refused {
  readonly condition: string;
  readonly reason: string;
}

/** The two types of an adapter, and its class. */
export interface AdaptedTypes {
  readonly checker: Checker;
  readonly target: Type;
  readonly adaptee: Type;
  /** The class with its type arguments. */
  readonly className: string;
}

type Kind =
  | "string"
  | "number"
  | "bigint"
  | "boolean"
  | "date"
  | "buffer"
  | "bytes"
  | "list"
  | "iterable"
  | "function"
  | "object"
  | "other";

/** Writes values of one type as values of another. */
export class Conversions {
  readonly #types: AdaptedTypes;
  readonly #checker: Checker;

  constructor(types: AdaptedTypes) {
    this.#types = types;
    this.#checker = types.checker;
  }

  isAssignable(from: Type, to: Type): boolean {
    return from === to || this.#checker.isTypeAssignableTo(from, to);
  }

  /** Returns the type that a promise resolves to; `undefined` for a type that is no promise. */
  promised(type: Type): Type | undefined {
    return promisedType(this.#checker, type);
  }

  /** Returns a type without `null` and `undefined`. */
  present(type: Type): Type {
    return this.mayBeMissing(type) ? (this.#checker.getNonNullableType(type) ?? type) : type;
  }

  isListOfAny(type: Type): boolean {
    const item = this.#itemOf(type);
    return item !== undefined && (item.flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0;
  }

  /** Whether a value of a type may be missing. */
  mayBeMissing(type: Type): boolean {
    return this.#partsOf(type).some(({ flags }) => (flags & NULLISH) !== 0);
  }

  /** Whether a type is one of iterators that a generator returns. */
  isIterator(type: Type): boolean {
    return /^(?:Generator|IterableIterator|Iterator|MapIterator|SetIterator|ArrayIterator|IteratorObject)$/.test(
      type.getSymbol()?.name ?? "",
    );
  }

  isIterable(type: Type): boolean {
    return ["list", "iterable"].includes(this.#kindOf(type));
  }

  isVoid({ flags }: Type): boolean {
    return (flags & (TypeFlags.Void | TypeFlags.Undefined)) !== 0;
  }

  /** Whether a type has members of its own, other than those of the language and of the adapted types. */
  isRecord(type: Type): boolean {
    if (this.#kindOf(type) !== "object" || isOpenType(type) || this.mayBeMissing(type)) return false;
    return !this.isTarget(type) && !this.isAdaptee(type) && !LANGUAGE.test(type.getSymbol()?.name ?? "");
  }

  membersOf(type: Type): readonly TypedMember[] {
    return typedMembersOf(this.#checker, type);
  }

  isErrorNumber(type: Type): boolean {
    return isErrorNumber(type);
  }

  isTarget(type: Type): boolean {
    return this.#isOf(type, this.#types.target);
  }

  isAdaptee(type: Type): boolean {
    return this.#isOf(type, this.#types.adaptee);
  }

  /** Writes a value of one type as a value of another; `undefined` if no known conversion does. */
  convert(text: string, from: Type, to: Type, depth = 0): Converted | undefined {
    const isOpen = isOpenType(to);
    const wrapped = this.#wrapped(text, from, to) ?? (isOpen ? undefined : this.#unwrapped(text, from, to));
    if (wrapped) return wrapped;
    if (this.isAssignable(from, to)) return { text, cost: isOpen ? 0.03 : 0, notes: [] };
    if (isOpen) return { text, cost: 0.1, notes: [] };
    // Types that depend on parameters are those of the client's call.
    if (isGenericType(from))
      return { text: `${text} as never`, cost: 0.1, notes: ["its generic type is not checked"] };
    if (isOpenType(from)) return { text, cost: 0.1, notes: [] };
    return depth > 2 ? undefined : this.#translated(text, from, to, depth);
  }

  #translated(text: string, from: Type, to: Type, depth: number): Converted | undefined {
    const translated = translatedValue(text, from, to);
    if (translated !== undefined)
      return { text: translated, cost: 0.06, notes: ["values of an enumeration are translated"] };
    return (
      this.#nullable(text, from, to, depth) ??
      this.#byKind(text, from, to, depth) ??
      (depth === 0 ? (this.#listed(text, from, to) ?? this.#partly(text, from, to)) : undefined)
    );
  }

  /** An adaptee, as a target. */
  #wrapped(text: string, from: Type, to: Type): Converted | undefined {
    if (!this.isAdaptee(from) || !this.#partsOf(to).some((part) => this.isTarget(part))) return undefined;
    return { text: `this.#adapted(${text})`, cost: 0.02, notes: ["what it returns is adapted too"] };
  }

  /** A target, as an adaptee. */
  #unwrapped(text: string, from: Type, to: Type): Converted | undefined {
    const parts = this.#partsOf(from);
    const otherParts = parts.filter((part) => !this.isTarget(part));
    if (otherParts.length === parts.length) return undefined;
    if (![this.#types.adaptee, ...otherParts].every((part) => this.isAssignable(part, to))) return undefined;
    return { text: `this.#unwrapped(${text})`, cost: 0.04, notes: ["takes the adaptee out of an adapter"] };
  }

  /** Of a value that may be of several types, those that are accepted. */
  #partly(text: string, from: Type, to: Type): Converted | undefined {
    const parts = this.#partsOf(from);
    const accepted = parts.filter((part) => (part.flags & NULLISH) === 0 && this.isAssignable(part, to));
    if (accepted.length === 0 || accepted.length === parts.length || !/^\w+(?:\[\d+\])?$/.test(text))
      return undefined;
    const tests = accepted.map((part) => this.testOf(text, part));
    if (tests.some((test) => test === undefined)) return undefined;
    const condition = `!(${[...new Set(tests)].join(" || ")})`;
    return {
      text,
      cost: 0.08,
      notes: ["throws for values of other types"],
      refused: { condition, reason: `${text} has a type that is not adapted` },
    };
  }

  /** Of texts, those that a union of texts contains. */
  #listed(text: string, from: Type, to: Type): Converted | undefined {
    const fromList = /^\w+(?:\[\d+\])?$/.test(text) ? valueInList(text, from, to) : undefined;
    return (
      fromList && {
        text: fromList.text,
        cost: 0.08,
        notes: ["throws for other texts"],
        refused: { condition: fromList.isOther, reason: `${text} has a value that is not adapted` },
      }
    );
  }

  /** `null` and `undefined` become each other. */
  #nullable(text: string, from: Type, to: Type, depth: number): Converted | undefined {
    const [fromParts, toParts] = [this.#partsOf(from), this.#partsOf(to)];
    const nullish = fromParts.filter(({ flags }) => (flags & NULLISH) !== 0);
    if (nullish.length === 0) return undefined;
    const bare = this.#checker.getNonNullableType(from);
    if (!bare || bare === from) return undefined;
    const takes = (flag: TypeFlags) => toParts.some(({ flags }) => (flags & flag) !== 0);
    const nullText = takes(TypeFlags.Null) ? "null" : undefined;
    const rest = takes(TypeFlags.Undefined | TypeFlags.Void) ? "undefined" : nullText;
    const inner = this.convert("value", bare, to, depth + 1);
    // A type that takes no missing value has to be given one.
    if (rest === undefined)
      return inner && depth === 0
        ? {
            text: inner.text.replace(/\bvalue\b/g, text),
            cost: 0.05 + inner.cost,
            notes: [`throws if there is no value`, ...inner.notes],
            refused: { condition: `${text} == null`, reason: `there is no ${text}` },
          }
        : undefined;
    if (!inner) return undefined;
    if (inner.text === "value")
      return { text: `${text} ?? ${rest}`, cost: 0.03 + inner.cost, notes: [`no value becomes ${rest}`] };
    if (!/^[\w.#]+$/.test(text)) return undefined;
    return {
      text: `${text} == null ? ${rest} : ${inner.text.replace(/\bvalue\b/g, text)}`,
      cost: 0.05 + inner.cost,
      notes: [`no value becomes ${rest}`, ...inner.notes],
    };
  }

  #byKind(text: string, from: Type, to: Type, depth: number): Converted | undefined {
    const targets = this.#partsOf(to).filter(({ flags }) => (flags & NULLISH) === 0);
    const own = this.#kindOf(from);
    for (const target of targets) {
      const kind = this.#kindOf(target);
      const known = CONVERSIONS[`${own} ${kind}`];
      if (known) return { text: known.write(text), cost: known.cost, notes: [known.note] };
      if ((own === "list" || own === "iterable") && kind === "list") {
        const [item, wanted] = [this.#itemOf(from), this.#itemOf(target)];
        const inner = item && wanted && this.convert("item", item, wanted, depth + 1);
        const list = own === "list" ? text : `[...${text}]`;
        if (inner)
          return {
            text: inner.text === "item" ? `[...${text}]` : `${list}.map((item) => ${inner.text})`,
            cost: 0.06 + inner.cost,
            notes: own === "list" ? inner.notes : ["an iterable becomes a list", ...inner.notes],
          };
      }
    }
    return undefined;
  }

  /** Returns the test of whether a value may be of a type, as an expression; `undefined` if all values may. */
  testOf(value: string, type: Type): string | undefined {
    const parts = this.#partsOf(type);
    const tests = new Set<string>();
    for (const part of parts) {
      const kind = this.#kindOfPart(part);
      const { flags } = part;
      if ((flags & (TypeFlags.Undefined | TypeFlags.Void)) !== 0) tests.add(`${value} === undefined`);
      else if ((flags & TypeFlags.Null) !== 0) tests.add(`${value} === null`);
      else if (["string", "number", "bigint", "boolean", "function"].includes(kind))
        tests.add(`typeof ${value} === "${kind}"`);
      else if (kind === "list") tests.add(`Array.isArray(${value})`);
      else if (kind === "date") tests.add(`${value} instanceof Date`);
      else if (kind === "other" || isOpenType(part)) return undefined;
      else tests.add(`(typeof ${value} === "object" && ${value} !== null)`);
    }
    return [...tests].join(" || ");
  }

  /** Whether a type takes a Node.js callback, with an error first. Returns the type of its value. */
  callbackValue(type: Type): { readonly value: Type | undefined } | undefined {
    const bare = this.#checker.getNonNullableType(type) ?? type;
    const [signature] = this.#checker.getSignaturesOfType(bare, SignatureKind.Call);
    const [error, value] = signature?.getParameters() ?? [];
    if (!error || !/^(?:e|er|err|error|_err|_error|reason)$/i.test(error.name)) return undefined;
    return { value: value && this.#checker.getTypeOfSymbol(value) };
  }

  #isOf(type: Type, known: Type): boolean {
    if (isOpenType(type)) return false;
    const bare = this.#partsOf(type).filter(({ flags }) => (flags & NULLISH) === 0);
    const [only] = bare;
    if (bare.length !== 1 || !only) return false;
    if (only === known) return true;
    const symbol = known.getSymbol();
    if (symbol && only.getSymbol()?.id === symbol.id) return true;
    // An intersection has no name.
    return only.isIntersectionType() && this.#checker.isTypeAssignableTo(only, known);
  }

  #partsOf(type: Type): readonly Type[] {
    return type.isUnionType() ? type.getTypes() : [type];
  }

  #itemOf(type: Type): Type | undefined {
    return type.isTypeReference() ? this.#checker.getTypeArguments(type)[0] : undefined;
  }

  #kindOf(type: Type): Kind {
    const parts = this.#partsOf(type).filter(({ flags }) => (flags & NULLISH) === 0);
    const kinds = new Set(parts.map((part) => this.#kindOfPart(part)));
    const [kind] = kinds;
    return kinds.size === 1 && kind !== undefined ? kind : "other";
  }

  #kindOfPart(type: Type): Kind {
    const { flags } = type;
    if ((flags & TypeFlags.StringLike) !== 0) return "string";
    if ((flags & TypeFlags.NumberLike) !== 0) return "number";
    if ((flags & TypeFlags.BigIntLike) !== 0) return "bigint";
    if ((flags & TypeFlags.BooleanLike) !== 0) return "boolean";
    if (this.#checker.isArrayType(type)) return "list";
    const name = type.getSymbol()?.name ?? "";
    if (name === "Date") return "date";
    if (name === "Buffer") return "buffer";
    if (name === "Uint8Array") return "bytes";
    if (
      /^(?:Set|ReadonlySet|Iterable|IterableIterator|MapIterator|SetIterator|ArrayIterator|Generator|IteratorObject)$/.test(
        name,
      )
    )
      return "iterable";
    if (this.#checker.getSignaturesOfType(type, SignatureKind.Call).length > 0) return "function";
    return (flags & TypeFlags.Object) !== 0 ? "object" : "other";
  }
}

/** Types of the language, whose members do not belong to an interface. */
const LANGUAGE =
  /^(?:Map|ReadonlyMap|WeakMap|WeakSet|RegExp|Error|URL|Intl|ArrayBuffer|DataView|AbortSignal|Promise|PromiseLike|Iterator|AsyncIterator|AsyncGenerator|Object|Function)$/;

interface KnownConversion {
  readonly write: (value: string) => string;
  readonly cost: number;
  readonly note: string;
}

const CONVERSIONS: Readonly<Record<string, KnownConversion>> = {
  "string date": { write: (text) => `new Date(${text})`, cost: 0.08, note: "a string becomes a date" },
  "number date": { write: (text) => `new Date(${text})`, cost: 0.08, note: "milliseconds become a date" },
  "date number": { write: (text) => `${text}.getTime()`, cost: 0.08, note: "a date becomes milliseconds" },
  "date string": {
    write: (text) => `${text}.toISOString()`,
    cost: 0.1,
    note: "a date becomes an ISO string",
  },
  "number string": { write: (text) => `String(${text})`, cost: 0.12, note: "a number becomes a string" },
  "bigint number": { write: (text) => `Number(${text})`, cost: 0.15, note: "a bigint becomes a number" },
  "number bigint": { write: (text) => `BigInt(${text})`, cost: 0.15, note: "a number becomes a bigint" },
  "string number": { write: (text) => `Number(${text})`, cost: 0.2, note: "a string becomes a number" },
  "number boolean": {
    write: (text) => `${text} > 0`,
    cost: 0.15,
    note: "a count becomes whether there were any",
  },
  "bytes buffer": { write: (text) => `Buffer.from(${text})`, cost: 0.06, note: "bytes become a Buffer" },
  "string buffer": { write: (text) => `Buffer.from(${text})`, cost: 0.15, note: "a string becomes a Buffer" },
  "buffer string": { write: (text) => `${text}.toString()`, cost: 0.15, note: "a Buffer becomes a string" },
};

/** Notes of conversions by which a value becomes one of another kind. */
export const CHANGES: ReadonlySet<string> = new Set(Object.values(CONVERSIONS).map(({ note }) => note));
