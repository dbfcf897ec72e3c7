import type { Checker, CompilerSymbol, Node, Type } from "../../../compiler/typescript.ts";
import { type MemberOwner, receiverOf } from "../../../uses/members/used-members.ts";
import { declarationKeyOf, type Owner } from "./derive-context.ts";

/** Maximum number of bases of a type. */
const MOST_BASES = 24;

/** Finds the objects that members are used of, by the types of what they are read from. */
export class Owners {
  readonly #keys = new Map<Node, readonly string[]>();
  readonly #ids = new Map<Owner, number>();

  /** Returns the keys of a type, of the alias that names it, and of its bases other than some. */
  keysOf(checker: Checker, type: Type, excluded: ReadonlySet<string>): readonly string[] {
    const keys = new Set<string>();
    const add = (symbol: CompilerSymbol | undefined): void => {
      const key = declarationKeyOf(symbol);
      if (key !== undefined && symbol && !symbol.name.startsWith("__")) keys.add(key);
    };
    add(type.getAliasSymbol());
    const pending = [type];
    for (let count = 0; count < pending.length && count < MOST_BASES; count++) {
      const current = pending[count] as Type;
      const symbol = current.getSymbol();
      if (count > 0 && excluded.has(declarationKeyOf(symbol) ?? "")) continue;
      add(symbol);
      const declared =
        current.isTypeReference() && symbol ? checker.getDeclaredTypeOfSymbol(symbol) : current;
      if (declared.isClassOrInterface()) pending.push(...checker.getBaseTypes(declared));
      if (current.isIntersectionType()) pending.push(...current.getTypes());
    }
    return [...keys];
  }

  /** Whether a member is used of an object. What has no name may be any object. */
  isOf(use: MemberOwner, owner: Owner): boolean {
    const { checker } = use;
    // What is written as a type is a value of that type, not of those that extend it.
    if ("type" in use) return isAny(this.namesOf(checker, use.type), owner.own);
    return this.#isReadFrom(use.receiver, checker, owner);
  }

  /** Whether a call is one of a member of an object. */
  isCallOf(call: Node, checker: Checker, owner: Owner): boolean {
    const { expression } = call as Node & { expression?: Node & { name?: Node; argumentExpression?: Node } };
    const name = expression?.name ?? expression?.argumentExpression;
    return this.#isReadFrom(name && receiverOf(name), checker, owner);
  }

  idOf(owner: Owner): number {
    const id = this.#ids.get(owner) ?? this.#ids.size;
    this.#ids.set(owner, id);
    return id;
  }

  #isReadFrom(receiver: Node | undefined, checker: Checker, owner: Owner): boolean {
    if (receiver === undefined) return owner.nodes === undefined;
    if (owner.nodes) return owner.nodes.has(receiver);
    const known = this.#keys.get(receiver);
    const keys = known ?? this.#typeNames(receiver, checker);
    this.#keys.set(receiver, keys);
    return isAny(keys, owner.keys);
  }

  #typeNames(receiver: Node, checker: Checker): readonly string[] {
    const type = checker.getTypeAtLocation(receiver);
    return type ? this.namesOf(checker, type) : [];
  }

  /** Returns the keys of the parts of a type, without their bases. */
  namesOf(checker: Checker, type: Type): readonly string[] {
    const own = [type.getAliasSymbol(), type.getSymbol()].flatMap((symbol) =>
      symbol && !symbol.name.startsWith("__") ? (declarationKeyOf(symbol) ?? []) : [],
    );
    if (type.isTypeParameter()) {
      const constraint = checker.getBaseConstraintOfType(type);
      return constraint ? this.namesOf(checker, constraint) : [];
    }
    if (!(type.isUnionType() || type.isIntersectionType())) return own;
    return [...own, ...type.getTypes().flatMap((part) => this.namesOf(checker, part))];
  }
}

/** What has no name may be any object. */
function isAny(keys: readonly string[], owners: ReadonlySet<string> | undefined): boolean {
  return owners !== undefined && (keys.length === 0 || keys.some((key) => owners.has(key)));
}
