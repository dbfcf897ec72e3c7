import { type Node, type ParameterDeclaration, type Type, TypeFlags } from "../../compiler/typescript.ts";
import type { AdapterMapping } from "../exported.ts";
import type { MemberCode } from "./wrapper-code.ts";

/** A type that has members of an implementation. */
export interface MemberOwner {
  readonly type: Type;
  /** Labels of the members that it has here. Default: all of its own. */
  readonly names?: ReadonlySet<string> | undefined;
}

/** What an expression evaluates to, as far as it is written in the project. */
export interface FoundValue {
  readonly kind: "object" | "function" | "class" | "unknown";
  /** The class, literal or function; for the unknown, the expression. */
  readonly node: Node;
  readonly type: Type;
  readonly owners: readonly MemberOwner[];
  readonly members: ReadonlyMap<string, MemberCode>;
  readonly classNode: Node | undefined;
  readonly making: readonly Node[];
  /** The expressions on the way, the outermost first. */
  readonly values: readonly Node[];
  /** The declarations on the way. */
  readonly declarations: readonly Node[];
  readonly mapping: AdapterMapping | undefined;
  /** The arguments of the calls on the way. */
  readonly scope: Scope;
}

/** The arguments of calls, by the parameter's symbol. */
export type Scope = ReadonlyMap<number, { readonly node: Node; readonly scope: Scope }>;

export type FunctionNode = Node & {
  readonly parameters: readonly ParameterDeclaration[];
  readonly body?: Node;
};

export const NO_SCOPE: Scope = new Map();
/** Maximum number of steps from an export to what implements it. */
export const MAX_STEPS = 24;
/** Maximum number of expressions that are read for one export. */
export const MAX_VALUES_READ = 5000;
/** Maximum number of values that one expression may have. */
export const MAX_VALUES = 64;

/** Puts the members of one value over those of another. */
export function over(
  base: FoundValue,
  top: Pick<FoundValue, "owners" | "members"> & Partial<FoundValue>,
): FoundValue {
  return {
    ...base,
    owners: [...top.owners, ...base.owners],
    members: new Map([...base.members, ...top.members]),
    classNode: top.classNode ?? base.classNode,
    making: [...base.making, ...(top.making ?? [])],
    values: [...base.values, ...(top.values ?? [])],
    declarations: [...base.declarations, ...(top.declarations ?? [])],
  };
}

export function limited<Item>(items: readonly Item[]): readonly Item[] {
  return items.slice(0, MAX_VALUES);
}

/** Whether a node is part of another. */
export function isInside(node: Node, outer: Node): boolean {
  return node.pos >= outer.pos && node.end <= outer.end && node.getSourceFile() === outer.getSourceFile();
}

/** Follows expressions to their values. */
export interface ReadsValues {
  /** Returns the values of an expression; several if it depends on a condition. */
  value(node: Node, scope?: Scope): readonly FoundValue[];
  /** Returns what a function returns, with the arguments for its parameters. */
  results(node: FunctionNode, scope: Scope): readonly FoundValue[];
  /** Returns a value of which only the type is known. */
  unknown(node: Node): FoundValue;
  typeAt(node: Node): Type;
}

/** Leaves out values of which nothing is known, such as cached ones, if there are others. */
export function withoutUnknown(values: readonly FoundValue[]): readonly FoundValue[] {
  const knownValues = values.filter(
    ({ kind, type }) => kind !== "unknown" || (type.flags & TypeFlags.Any) !== 0,
  );
  return knownValues.some(({ kind }) => kind !== "unknown") ? knownValues : values;
}
