import { isAbstract, isClassSymbol, isValueSymbol, nameOf } from "../compiler/syntax.ts";
import { type CompilerSymbol, type Node, SymbolFlags } from "../compiler/typescript.ts";
import { stringLiteral } from "../written-text.ts";
import type { SymbolPair } from "./changed-exports.ts";
import type { Callable } from "./parameter-lists.ts";

/** A statement that compiles only if an export is compatible with its earlier version. */
export interface Assignment {
  readonly concerns: "consumers" | "implementers";
  readonly code: string;
  /** Why it does not compile. Default: the compiler's message. */
  readonly reason?: string;
}

/** The names under which statements refer to both versions. */
export const VERSION_NAMES = { before: "Before", now: "Now" } as const;

/**
 * Returns the statements that compare an export, `name` or `namespace.name`, with its earlier version. For consumers,
 * the new one must be assignable to the old one; for implementers, and for arguments, the other way round.
 */
export function assignmentsOf(
  name: string,
  { old, found }: SymbolPair,
  callables: readonly Callable[],
): readonly Assignment[] {
  const assignments: Assignment[] = [];
  const [before, now] = [`${VERSION_NAMES.before}.${name}`, `${VERSION_NAMES.now}.${name}`];
  const add = (concerns: Assignment["concerns"], parameters: string, from: string, to: string) =>
    assignments.push({
      concerns,
      code: `{ const given = ${parameters}(value: ${from}): ${to} => value; void given; }`,
    });
  if (isValueSymbol(old) && isValueSymbol(found)) add("consumers", "", `typeof ${now}`, `typeof ${before}`);
  if (isTypeSymbol(old) && isTypeSymbol(found)) {
    const parameters = typeParametersOf(old, found);
    const [was, is] = [`${before}${parameters.before}`, `${now}${parameters.now}`];
    add("consumers", parameters.list, is, was);
    // Members that are added to a class do not concern its subclasses.
    if (!isClassSymbol(found)) add("implementers", parameters.list, was, is);
  }
  for (const callable of callables) {
    const type = parametersType(callable, old, found);
    const [was, is] = [type(before, 0), type(now, 1)];
    add("consumers", "", was, is);
    // Who implements a method may take fewer parameters.
    if (typeof callable === "object" && !isClassSymbol(found))
      add("implementers", "", `(...values: ${was}) => void`, `(...values: ${is}) => void`);
  }
  const fail = (concerns: Assignment["concerns"], reason: string) =>
    assignments.push({ concerns, code: "{ const reason: never = 0; void reason; }", reason });
  if (isTypeSymbol(old) && !isTypeSymbol(found)) fail("consumers", "It is no longer a type.");
  if (isValueSymbol(old) && !isValueSymbol(found)) fail("consumers", "It is no longer a value.");
  for (const member of addedAbstractMembers(old, found))
    fail("implementers", `Subclasses must implement \`${member}\`.`);
  return assignments;
}

/** Returns how the type of a parameter list is written for each version, by the name of the export. */
function parametersType(callable: Callable, ...versions: readonly CompilerSymbol[]) {
  return (name: string, version: 0 | 1): string => {
    if (callable === "itself") return `Parameters<typeof ${name}>`;
    if (callable === "constructor") return `ConstructorParameters<typeof ${name}>`;
    const symbol = versions[version];
    const anyArguments = (symbol ? parametersOf(symbol) : []).map(() => "any");
    const type = anyArguments.length === 0 ? name : `${name}<${anyArguments.join(", ")}>`;
    return `Parameters<NonNullable<${type}[${stringLiteral(callable.member)}]>>`;
  };
}

/** Returns the abstract members of a class that its earlier version does not have, or implements. */
function addedAbstractMembers(old: CompilerSymbol, current: CompilerSymbol): readonly string[] {
  const before = new Set(abstractMembersOf(old));
  return isClassSymbol(old) ? abstractMembersOf(current).filter((name) => !before.has(name)) : [];
}

function abstractMembersOf({ declarations }: CompilerSymbol): readonly string[] {
  return declarations.flatMap((declaration) => {
    const { members = [] } = (declaration.resolve() ?? {}) as { readonly members?: readonly Node[] };
    return members.flatMap((member) => (isAbstract(member) ? (nameOf(member)?.text ?? []) : []));
  });
}

function isTypeSymbol({ flags }: CompilerSymbol): boolean {
  return (flags & SymbolFlags.Type) !== 0;
}

/** Returns type parameters for a comparison. `any` is the argument where a parameter has a constraint. */
function typeParametersOf(old: CompilerSymbol, current: CompilerSymbol) {
  const [were, are] = [parametersOf(old), parametersOf(current)];
  const free = were.map((isFree, index) => isFree && are[index] !== false);
  const argument = (index: number) => (free[index] ? `T${index}` : "any");
  const parameterList = (parameters: readonly boolean[]) =>
    parameters.length === 0 ? "" : `<${parameters.map((_, index) => argument(index)).join(", ")}>`;
  const names = free.flatMap((isFree, index) => (isFree ? [`T${index}`] : []));
  return {
    list: names.length === 0 ? "" : `<${names.join(", ")}>`,
    before: parameterList(were),
    now: parameterList(are),
  };
}

/** Returns the type parameters of a declaration, and whether each may be any type. */
function parametersOf({ declarations }: CompilerSymbol): readonly boolean[] {
  for (const declaration of declarations) {
    const { typeParameters } = (declaration.resolve() ?? {}) as {
      readonly typeParameters?: readonly { readonly constraint?: unknown }[];
    };
    if (typeParameters) return typeParameters.map(({ constraint }) => constraint === undefined);
  }
  return [];
}
