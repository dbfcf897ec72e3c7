import {
  type Checker,
  type Symbol as CompilerSymbol,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "typescript/unstable/sync";
import { isSlip } from "../nearest-name.ts";
import { parametersOf } from "./parameters.ts";

/** Where one type does not serve as another, though the compiler may let it pass. */
export interface Misfit {
  /**
   * What is wrong: the types do not fit; a parameter takes less, which the compiler overlooks in methods; a number
   * stands for an enumeration; or a name that is optional is misspelt, which the compiler takes for another name.
   */
  readonly kind: "type" | "parameter" | "enum" | "weak";
  /** The way to it from where the comparison began, as `.speed` or `(then)`; empty for the types themselves. */
  readonly path: string;
  readonly expected: string;
  readonly found: string;
}

/** How deep into a type is looked. Deeper down, what the compiler says is taken. */
const DEEPEST = 5;

/**
 * Compares types more strictly than assignability: parameters of methods contravariantly, through results, callbacks
 * and what they hold; enumerations by name; optional names by their spelling.
 */
export class Fit {
  readonly #checker: Checker;
  /** Whether a type's members are worth comparing one by one: the project's own, and those without a name. */
  readonly #isOwn: (path: string) => boolean;
  readonly #open = new Set<string>();
  /** The type parameters of one generic signature, with those of the other that stand in the same place. */
  readonly #same = new Map<number, number>();

  constructor(checker: Checker, isOwn: (path: string) => boolean) {
    this.#checker = checker;
    this.#isOwn = isOwn;
  }

  /** Whether a value of `source` serves wherever `target` is expected; what is wrong if it does not. */
  misfit(source: Type, target: Type, path = "", depth = 0): Misfit | undefined {
    if (source.id === target.id || isUntyped(source) || isUntyped(target)) return undefined;
    const known = this.#generic(source, target);
    if (known !== undefined) return known ? undefined : this.#misfit("type", source, target, path);
    if (isEnum(target) && !isEnum(source) && (source.flags & TypeFlags.NumberLike) !== 0)
      return this.#misfit("enum", source, target, path);
    if (!this.#checker.isTypeAssignableTo(source, target) && !this.#mentionsParameters(source, target))
      return this.#misfit("type", source, target, path);
    if (depth >= DEEPEST) return undefined;
    const key = `${source.id} ${target.id}`;
    // A type that refers to itself has nothing new to tell the second time.
    if (this.#open.has(key)) return undefined;
    this.#open.add(key);
    const found = this.#within(source, target, path, depth + 1);
    this.#open.delete(key);
    return found;
  }

  /** The same for a signature that is called where another is expected. */
  signatureMisfit(source: Signature, target: Signature, path: string, depth: number): Misfit | undefined {
    const remembered = this.#pair(source, target);
    try {
      const taken = parametersOf(this.#checker, source);
      const sent = parametersOf(this.#checker, target);
      for (const [index, parameter] of sent.entries()) {
        const place = taken.at(index);
        if (!place) break;
        const wrong = this.misfit(parameter.type, place.type, `${path}(${parameter.name})`, depth);
        if (wrong) return { ...wrong, kind: wrong.kind === "type" ? "parameter" : wrong.kind };
      }
      const [given, wanted] = [source, target].map((each) => this.#checker.getReturnTypeOfSignature(each));
      if (!given || !wanted || (wanted.flags & TypeFlags.Void) !== 0) return undefined;
      return this.misfit(given, wanted, `${path}()`, depth);
    } finally {
      for (const id of remembered) this.#same.delete(id);
    }
  }

  #within(source: Type, target: Type, path: string, depth: number): Misfit | undefined {
    if (source.isUnionType()) {
      for (const each of source.getTypes()) {
        const wrong = this.misfit(each, target, path, depth);
        if (wrong) return wrong;
      }
      return undefined;
    }
    if (target.isUnionType()) {
      const meant = target
        .getTypes()
        .filter(
          (each) =>
            this.#generic(source, each) ??
            (this.#mentionsParameters(source, each) || this.#checker.isTypeAssignableTo(source, each)),
        );
      const wrong = meant.map((each) => this.misfit(source, each, path, depth));
      return wrong.every((each) => each) ? wrong[0] : undefined;
    }
    if ((source.flags & target.flags & TypeFlags.Object) === 0) return undefined;
    const names = [source, target].map((each) => each.getSymbol()?.name);
    if (names[0] === `Readonly${names[1]}`) return this.#misfit("type", source, target, path);
    const [given, wanted] = [this.#argumentsOf(source), this.#argumentsOf(target)];
    if (given && wanted && source.getSymbol()?.id === target.getSymbol()?.id && !this.#isDetailed(target)) {
      for (const [index, each] of given.entries()) {
        const expected = wanted[index];
        const wrong = expected && this.misfit(each, expected, `${path}<>`, depth);
        if (wrong) return wrong;
      }
      return undefined;
    }
    return this.#isDetailed(target) ? this.#detail(source, target, path, depth) : undefined;
  }

  #detail(source: Type, target: Type, path: string, depth: number): Misfit | undefined {
    const calls = [source, target].map((each) =>
      this.#checker.getSignaturesOfType(each, SignatureKind.Call),
    ) as [readonly Signature[], readonly Signature[]];
    for (const wanted of calls[1]) {
      const wrong = calls[0].map((each) => this.signatureMisfit(each, wanted, path, depth));
      if (wrong.length > 0 && wrong.every((each) => each)) return wrong[0];
    }
    const wanted = this.#checker.getPropertiesOfType(target);
    const given = new Map(this.#checker.getPropertiesOfType(source).map((each) => [each.name, each]));
    const weak = this.#misspelt(given, wanted, target, path);
    if (weak) return weak;
    const pairs = wanted.flatMap((symbol) => {
      const found = given.get(symbol.name);
      return found ? [[symbol, found] as const] : [];
    });
    if (pairs.length === 0) return undefined;
    const types = this.#checker.getTypeOfSymbol(pairs.flat());
    for (const [index, [{ name }]] of pairs.entries()) {
      const [expected, found] = [types[2 * index], types[2 * index + 1]];
      const wrong = expected && found && this.misfit(found, expected, `${path}.${name}`, depth);
      if (wrong) return wrong;
    }
    return undefined;
  }

  /** A name that the target has as optional and the source spells a little differently. */
  #misspelt(
    given: ReadonlyMap<string, CompilerSymbol>,
    wanted: readonly CompilerSymbol[],
    target: Type,
    path: string,
  ): Misfit | undefined {
    const names = wanted.map(({ name }) => name);
    for (const { name, flags } of wanted) {
      if ((flags & SymbolFlags.Optional) === 0 || given.has(name)) continue;
      const slip = [...given.keys()].find((each) => !names.includes(each) && isSlip(each, name));
      if (slip === undefined) continue;
      const expected = `${name} of ${this.#checker.typeToString(target)}`;
      return { kind: "weak", path: `${path}.${slip}`, expected, found: slip };
    }
    return undefined;
  }

  /** What is known of type parameters: the same place in two signatures makes them the same. */
  #generic(source: Type, target: Type): boolean | undefined {
    if (!target.isTypeParameter() && !source.isTypeParameter()) return undefined;
    if (target.isUnionType() || source.isUnionType()) return undefined;
    if (!this.#same.has(source.id) && !this.#same.has(target.id)) return undefined;
    if (target.isTypeParameter()) return this.#same.get(source.id) === target.id;
    const constraint = this.#checker.getBaseConstraintOfType(source);
    return constraint !== undefined && this.#checker.isTypeAssignableTo(constraint, target);
  }

  #mentionsParameters(source: Type, target: Type): boolean {
    return this.#same.size > 0 && [source, target].some((each) => this.#hasParameter(each, 0));
  }

  #hasParameter(type: Type, depth: number): boolean {
    if (this.#same.has(type.id)) return true;
    if (depth > 3) return false;
    if (type.isUnionType() || type.isIntersectionType())
      return type.getTypes().some((each) => this.#hasParameter(each, depth + 1));
    const signatures =
      (type.flags & TypeFlags.Object) !== 0
        ? this.#checker.getSignaturesOfType(type, SignatureKind.Call)
        : [];
    return (
      (this.#argumentsOf(type) ?? []).some((each) => this.#hasParameter(each, depth + 1)) ||
      (this.#isDetailed(type) && signatures.length > 0)
    );
  }

  #pair(source: Signature, target: Signature): readonly number[] {
    const ours = source.getTypeParameters();
    const theirs = target.getTypeParameters();
    if (ours.length !== theirs.length) return [];
    return ours.flatMap((each, index) => {
      const other = theirs[index]?.id as number;
      this.#same.set(each.id, other).set(other, each.id);
      return [each.id, other];
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

  #misfit(kind: Misfit["kind"], source: Type, target: Type, path: string): Misfit {
    const [found, expected] = [source, target].map((each) => this.#checker.typeToString(each)) as [
      string,
      string,
    ];
    return { kind, path, expected, found };
  }
}

function isUntyped(type: Type): boolean {
  return (type.flags & TypeFlags.AnyOrUnknown) !== 0;
}

function isEnum(type: Type): boolean {
  return (type.flags & TypeFlags.EnumLike) !== 0;
}
