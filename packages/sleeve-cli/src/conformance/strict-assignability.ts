import { parametersOf } from "../compiler/parameters.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import { isSlip } from "../nearest-name.ts";

/** A place where one type cannot serve as another, even if the compiler accepts it. */
export interface Mismatch {
  /**
   * The kind of mismatch: types that do not fit; a method parameter that accepts less, which the compiler
   * compares bivariantly; a number for an enumeration; or a misspelt optional name, which is unrelated to the
   * compiler.
   */
  readonly kind: "type" | "parameter" | "enum" | "misspelt";
  /** Path from the compared types, such as `.speed` or `(then)`; empty for the types themselves. */
  readonly path: string;
  readonly expected: string;
  readonly found: string;
}

const EMPTY = TypeFlags.Undefined | TypeFlags.Null | TypeFlags.Void;

/** Maximum depth of the strict comparison. Deeper, the compiler's assignability decides. */
const MAX_DEPTH = 5;

/**
 * Compares types more strictly than assignability: method parameters contravariantly, also within results and
 * callbacks; enumerations by name; optional members by their spelling.
 */
export class StrictAssignability {
  readonly #checker: Checker;
  /** Whether the members of a type are compared one by one: the project's own types and anonymous ones. */
  readonly #isOwn: (path: string) => boolean;
  readonly #open = new Set<string>();
  /** Type parameters of one generic signature, with those at the same positions of the other. */
  readonly #same = new Map<number, number>();
  /** Type parameters of signatures that have another number of them. */
  readonly #rigid = new Set<number>();
  /** Types that free type parameters were compared with. */
  readonly #bound = new Map<number, Type>();

  /** @param paired type parameters that count as equal */
  constructor(
    checker: Checker,
    isOwn: (path: string) => boolean,
    paired: readonly (readonly [Type, Type])[] = [],
  ) {
    this.#checker = checker;
    this.#isOwn = isOwn;
    for (const [source, target] of paired) this.#same.set(source.id, target.id).set(target.id, source.id);
  }

  /** Returns the mismatch if a value of `source` cannot be used as `target`. */
  mismatch(source: Type, target: Type, path = "", depth = 0): Mismatch | undefined {
    if (source.id === target.id || isUntyped(source) || isUntyped(target)) return undefined;
    // An object of an outside module takes its own objects back, of which the target declares a part.
    if (this.#open.has(`${target.id} ${source.id}`) && this.#isOutside(target)) return undefined;
    const verdict = this.#parameterVerdict(source, target) ?? this.#plainVerdict(source, target);
    if (verdict !== undefined)
      return verdict ? this.#createMismatch(verdict, source, target, path) : undefined;
    if (depth >= MAX_DEPTH) return undefined;
    const key = `${source.id} ${target.id}`;
    // A recursive type has nothing new the second time.
    if (this.#open.has(key)) return undefined;
    this.#open.add(key);
    const mismatch = this.#within(source, target, path, depth + 1);
    this.#open.delete(key);
    return mismatch;
  }

  /** Compares types of which one is a type parameter: the kind of mismatch, or `false` if there is none. */
  #parameterVerdict(source: Type, target: Type): "type" | false | undefined {
    if (this.#isFree(source) || this.#isFree(target)) return this.#isBound(source, target) ? false : "type";
    const isEqual = this.#generic(source, target);
    if (isEqual === undefined) return undefined;
    return isEqual ? false : "type";
  }

  /** The kind of mismatch of types of which no part has to be compared. */
  #plainVerdict(source: Type, target: Type): "enum" | "type" | undefined {
    if (isEnum(target) && !isEnum(source) && (source.flags & TypeFlags.NumberLike) !== 0) return "enum";
    if (this.#checker.isTypeAssignableTo(source, target)) return undefined;
    const isOpen = this.#hasFree(source, 0) || this.#hasFree(target, 0);
    return isOpen || this.#mentionsParameters(source, target) ? undefined : "type";
  }

  /** Runs a comparison in which the type parameters of two signatures count as equal, by position. */
  paired<Result>(source: Signature, target: Signature, compare: () => Result): Result {
    const remembered = this.#pair(source, target);
    try {
      return compare();
    } finally {
      for (const id of remembered) {
        this.#same.delete(id);
        this.#rigid.delete(id);
      }
      for (const { id } of source.getTypeParameters()) this.#bound.delete(id);
    }
  }

  /** Returns the mismatch if a type parameter of a signature accepts less than its counterpart in the target. */
  constraintMismatch(source: Signature, target: Signature): Mismatch | undefined {
    const checker = this.#checker;
    const theirs = target.getTypeParameters();
    for (const [index, our] of source.getTypeParameters().entries()) {
      const constraint = checker.getBaseConstraintOfType(our);
      const their = theirs[index];
      const sent = (their && checker.getBaseConstraintOfType(their)) ?? checker.getUnknownType();
      const isFree = !constraint || isUntyped(constraint) || this.#hasParameter(constraint, 0);
      if (!their || isFree || checker.isTypeAssignableTo(sent, constraint)) continue;
      return this.#createMismatch("parameter", sent, constraint, `<${checker.typeToString(our)}>`);
    }
    return undefined;
  }

  /** Returns the mismatch if one signature cannot be called as another. */
  signatureMismatch(source: Signature, target: Signature, path: string, depth: number): Mismatch | undefined {
    return this.paired(source, target, () => {
      const taken = parametersOf(this.#checker, source);
      const sent = parametersOf(this.#checker, target);
      for (const [index, parameter] of sent.entries()) {
        const place = taken.at(index);
        if (!place) break;
        const wrong = this.mismatch(parameter.type, place.type, `${path}(${parameter.name})`, depth);
        if (wrong) return { ...wrong, kind: wrong.kind === "type" ? "parameter" : wrong.kind };
      }
      const [sourceResult, targetResult] = [source, target].map((signature) =>
        this.#checker.getReturnTypeOfSignature(signature),
      );
      if (!sourceResult || !targetResult || (targetResult.flags & TypeFlags.Void) !== 0) return undefined;
      return this.mismatch(sourceResult, targetResult, `${path}()`, depth);
    });
  }

  #within(source: Type, target: Type, path: string, depth: number): Mismatch | undefined {
    if (source.isUnionType())
      return firstOf(source.getTypes(), (type) => this.mismatch(type, target, path, depth));
    if (target.isUnionType()) return this.#unionMismatch(source, target, path, depth);
    if ((source.flags & target.flags & TypeFlags.Object) === 0) return undefined;
    const [sourceName, targetName] = [source, target].map((type) => type.getSymbol()?.name);
    if (sourceName === `Readonly${targetName}`) return this.#createMismatch("type", source, target, path);
    const [sourceArguments, targetArguments] = [this.#argumentsOf(source), this.#argumentsOf(target)];
    if (isUninferred(sourceArguments, targetArguments)) return undefined;
    if (this.#isDetailed(target)) return this.#detail(source, target, path, depth);
    if (!sourceArguments || !targetArguments || source.getSymbol()?.id !== target.getSymbol()?.id)
      return undefined;
    return firstOf(sourceArguments, (argument, index) => {
      const expected = targetArguments[index];
      return expected && this.mismatch(argument, expected, `${path}<>`, depth);
    });
  }

  /** Returns the mismatch if a value of `source` is of none of the types of a union. */
  #unionMismatch(
    source: Type,
    target: Type & { getTypes(): readonly Type[] },
    path: string,
    depth: number,
  ): Mismatch | undefined {
    const isGeneric = (type: Type) =>
      this.#mentionsParameters(source, type) || this.#hasFree(source, 0) || this.#hasFree(type, 0);
    const candidates = target
      .getTypes()
      .filter(
        (type) =>
          this.#generic(source, type) ?? (isGeneric(type) || this.#checker.isTypeAssignableTo(source, type)),
      );
    if (candidates.length === 0 && !this.#checker.isTypeAssignableTo(source, target))
      return this.#createMismatch("type", source, target, path);
    const mismatches = candidates.map((type) => this.mismatch(source, type, path, depth));
    return mismatches.every((mismatch) => mismatch) ? mismatches[0] : undefined;
  }

  #detail(source: Type, target: Type, path: string, depth: number): Mismatch | undefined {
    const calls = [source, target].map((type) =>
      this.#checker.getSignaturesOfType(type, SignatureKind.Call),
    ) as [readonly Signature[], readonly Signature[]];
    for (const targetCall of calls[1]) {
      const wrong = calls[0].map((signature) => this.signatureMismatch(signature, targetCall, path, depth));
      if (wrong.length > 0 && wrong.every((item) => item)) return wrong[0];
    }
    const targetProperties = this.#checker.getPropertiesOfType(target);
    const sourceProperties = new Map(
      this.#checker.getPropertiesOfType(source).map((symbol) => [symbol.name, symbol]),
    );
    const weak = this.#misspelt(sourceProperties, targetProperties, target, path);
    if (weak) return weak;
    const pairs = targetProperties.flatMap((symbol) => {
      const sourceProperty = sourceProperties.get(symbol.name);
      return sourceProperty ? [[symbol, sourceProperty] as const] : [];
    });
    if (pairs.length === 0) return undefined;
    const types = this.#checker.getTypeOfSymbol(pairs.flat());
    for (const [index, [{ name }]] of pairs.entries()) {
      const [expected, actual] = [types[2 * index], types[2 * index + 1]];
      const wrong = expected && actual && this.mismatch(actual, expected, `${path}.${name}`, depth);
      if (wrong) return wrong;
    }
    return undefined;
  }

  /** Finds an optional name of the target that the source spells slightly differently. */
  #misspelt(
    sourceProperties: ReadonlyMap<string, CompilerSymbol>,
    targetProperties: readonly CompilerSymbol[],
    target: Type,
    path: string,
  ): Mismatch | undefined {
    const names = targetProperties.map(({ name }) => name);
    for (const { name, flags } of targetProperties) {
      if ((flags & SymbolFlags.Optional) === 0 || sourceProperties.has(name)) continue;
      const slip = [...sourceProperties.keys()].find((key) => !names.includes(key) && isSlip(key, name));
      if (slip === undefined) continue;
      const expected = `${name} of ${this.#checker.typeToString(target)}`;
      return { kind: "misspelt", path: `${path}.${slip}`, expected, found: slip };
    }
    return undefined;
  }

  /** Type parameters at the same position of two signatures count as equal. */
  #generic(source: Type, target: Type): boolean | undefined {
    if (!target.isTypeParameter() && !source.isTypeParameter()) return undefined;
    if (target.isUnionType() || source.isUnionType()) return undefined;
    if (!this.#same.has(source.id) && !this.#same.has(target.id)) return undefined;
    if (target.isTypeParameter()) return this.#same.get(source.id) === target.id;
    const constraint = this.#checker.getBaseConstraintOfType(source);
    return constraint !== undefined && this.#checker.isTypeAssignableTo(constraint, target);
  }

  /**
   * Whether a type is a type parameter of a generic function or class behind the wrapper, whose type arguments are those
   * with which the wrapper uses it.
   */
  #isFree(type: Type): boolean {
    if (!type.isTypeParameter() || this.#same.has(type.id) || this.#rigid.has(type.id)) return false;
    // The type `this` is a type parameter too.
    return ((type.getSymbol()?.flags ?? 0) & SymbolFlags.TypeParameter) !== 0;
  }

  /** Whether a free type parameter can be the other type: the first one that it is compared with. */
  #isBound(source: Type, target: Type): boolean {
    const checker = this.#checker;
    if (checker.isTypeAssignableTo(source, target)) return true;
    const [parameter, counterpart] = this.#isFree(source)
      ? [source, this.#withoutEmpty(target)]
      : [target, source];
    const bound = this.#bound.get(parameter.id);
    if (bound)
      return (
        bound.id === counterpart.id ||
        (checker.isTypeAssignableTo(bound, counterpart) && checker.isTypeAssignableTo(counterpart, bound))
      );
    const constraint = checker.getBaseConstraintOfType(parameter);
    if (constraint && !isUntyped(constraint) && !checker.isTypeAssignableTo(counterpart, constraint))
      return false;
    this.#bound.set(parameter.id, counterpart);
    return true;
  }

  /** Returns the only type of a union besides `undefined` and `null`, or the type itself. */
  #withoutEmpty(type: Type): Type {
    if (!type.isUnionType()) return type;
    const [onlyPart, ...others] = type.getTypes().filter(({ flags }) => (flags & EMPTY) === 0);
    return onlyPart && others.length === 0 ? onlyPart : type;
  }

  /** Whether a type mentions type parameters of a generic function or class, without type arguments. */
  hasFreeParameters(type: Type): boolean {
    return this.#hasFree(type, 0);
  }

  #hasFree(type: Type, depth: number): boolean {
    // A type that is still computed depends on some of them.
    if (this.#isFree(type) || type.isConditionalType() || type.isIndexedAccessType()) return true;
    if (depth > 3) return false;
    const within = (types: readonly Type[]) => types.some((part) => this.#hasFree(part, depth + 1));
    if (type.isUnionType() || type.isIntersectionType()) return within(type.getTypes());
    if (within(this.#argumentsOf(type) ?? [])) return true;
    if (!this.#isDetailed(type)) return false;
    const signatures = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    const ofCalls = signatures.flatMap((signature) => [
      ...[...parametersOf(this.#checker, signature).entries()].map(([, { type: taken }]) => taken),
      ...[this.#checker.getReturnTypeOfSignature(signature)].flatMap((result) => result ?? []),
    ]);
    if (within(ofCalls)) return true;
    const properties = this.#checker.getPropertiesOfType(type);
    return (
      properties.length > 0 &&
      within(this.#checker.getTypeOfSymbol([...properties]).flatMap((type) => type ?? []))
    );
  }

  #mentionsParameters(source: Type, target: Type): boolean {
    return this.#same.size > 0 && [source, target].some((type) => this.#hasParameter(type, 0));
  }

  #hasParameter(type: Type, depth: number): boolean {
    if (this.#same.has(type.id)) return true;
    if (depth > 3) return false;
    if (type.isUnionType() || type.isIntersectionType())
      return type.getTypes().some((type) => this.#hasParameter(type, depth + 1));
    const signatures =
      (type.flags & TypeFlags.Object) !== 0
        ? this.#checker.getSignaturesOfType(type, SignatureKind.Call)
        : [];
    return (
      (this.#argumentsOf(type) ?? []).some((type) => this.#hasParameter(type, depth + 1)) ||
      (this.#isDetailed(type) && signatures.length > 0)
    );
  }

  #pair(source: Signature, target: Signature): readonly number[] {
    const ours = source.getTypeParameters();
    const theirs = target.getTypeParameters();
    if (ours.length !== theirs.length) {
      // The type parameters of a function are inferred anew for each call of the target.
      const ids = theirs.map(({ id }) => id).filter((id) => !this.#rigid.has(id));
      for (const id of ids) this.#rigid.add(id);
      return ids;
    }
    return ours.flatMap((our, index) => {
      const theirId = theirs[index]?.id as number;
      this.#same.set(our.id, theirId).set(theirId, our.id);
      return [our.id, theirId];
    });
  }

  #argumentsOf(type: Type): readonly Type[] | undefined {
    return type.isTypeReference() ? this.#checker.getTypeArguments(type) : undefined;
  }

  #isDetailed(type: Type): boolean {
    if ((type.flags & TypeFlags.Object) === 0) return false;
    const symbol = type.getSymbol();
    return (
      !symbol || symbol.name.startsWith("__") || symbol.declarations.some(({ path }) => this.#isOwn(path))
    );
  }

  #isOutside(type: Type): boolean {
    const { declarations = [] } = type.getSymbol() ?? {};
    return declarations.length > 0 && declarations.every(({ path }) => !this.#isOwn(path));
  }

  #createMismatch(kind: Mismatch["kind"], source: Type, target: Type, path: string): Mismatch {
    const [sourceText, expected] = [source, target].map((type) => this.#checker.typeToString(type)) as [
      string,
      string,
    ];
    return { kind, path, expected, found: sourceText };
  }
}

/** Whether an argument was left to inference, as in `new Queue()` for a `Queue<Item>`. */
function isUninferred(
  sourceArguments: readonly Type[] | undefined,
  targetArguments: readonly Type[] | undefined,
): boolean {
  return (
    sourceArguments?.some(
      (argument, index) =>
        (argument.flags & TypeFlags.Unknown) !== 0 && targetArguments?.[index]?.isTypeParameter() === true,
    ) === true
  );
}

/** Returns the first mismatch that a comparison of the items finds. */
function firstOf<Item>(
  items: readonly Item[],
  mismatchOf: (item: Item, index: number) => Mismatch | undefined,
): Mismatch | undefined {
  for (const [index, item] of items.entries()) {
    const mismatch = mismatchOf(item, index);
    if (mismatch) return mismatch;
  }
  return undefined;
}

function isUntyped(type: Type): boolean {
  return (type.flags & TypeFlags.AnyOrUnknown) !== 0;
}

function isEnum(type: Type): boolean {
  return (type.flags & TypeFlags.EnumLike) !== 0;
}
