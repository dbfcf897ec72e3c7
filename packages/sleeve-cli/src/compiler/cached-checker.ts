import type { Checker } from "./typescript.ts";

/** Queries whose answer follows from their first argument. */
const BY_OBJECT = [
  "getAliasedSymbol",
  "getBaseConstraintOfType",
  "getBaseTypes",
  "getConstraintOfTypeParameter",
  "getContextualType",
  "getDeclaredTypeOfSymbol",
  "getDocumentationCommentOfSymbol",
  "getExportsOfModule",
  "getIndexInfosOfType",
  "getJsDocTagsOfSymbol",
  "getNonNullableType",
  "getPropertiesOfType",
  "getResolvedSignature",
  "getReturnTypeOfSignature",
  "getTypeArguments",
  "getTypeFromTypeNode",
  "getTypePredicateOfSignature",
  "isArrayType",
  "isTupleType",
  "isUnknownSymbol",
] as const satisfies readonly (keyof Checker)[];

/** Queries with a number or name besides. */
const BY_OBJECT_AND_KEY = [
  "getMemberInModuleExports",
  "getParameterType",
  "getPropertyOfType",
  "getSignaturesOfType",
] as const satisfies readonly (keyof Checker)[];

/** Queries that also take a list. */
const BY_EACH = [
  "getSymbolAtLocation",
  "getTypeAtLocation",
  "getTypeOfSymbol",
] as const satisfies readonly (keyof Checker)[];

type Query = (...args: readonly unknown[]) => unknown;

/**
 * Returns a checker that sends each query to the compiler's process once. Worth its memory where the same types
 * are read again and again.
 */
export function cachedChecker(checker: Checker): Checker {
  const cached = Object.create(checker) as Record<string, Query>;
  const queries = checker as unknown as Record<string, Query>;
  for (const name of BY_OBJECT) {
    const answers = new WeakMap<object, unknown>();
    cached[name] = (object) => answer(answers, object as object, () => queries[name]?.call(checker, object));
  }
  for (const name of BY_OBJECT_AND_KEY) {
    const answers = new WeakMap<object, Map<unknown, unknown>>();
    cached[name] = (object, key) => {
      const byKey = answer(answers, object as object, () => new Map<unknown, unknown>());
      return answer(byKey, key, () => queries[name]?.call(checker, object, key));
    };
  }
  for (const name of BY_EACH) {
    const answers = new WeakMap<object, unknown>();
    cached[name] = (subject) => {
      if (!Array.isArray(subject))
        return answer(answers, subject as object, () => queries[name]?.call(checker, subject));
      const objects = subject as readonly object[];
      const unknown = [...new Set(objects.filter((object) => !answers.has(object)))];
      const found = unknown.length > 0 ? (queries[name]?.call(checker, unknown) as readonly unknown[]) : [];
      unknown.forEach((object, index) => {
        answers.set(object, found[index]);
      });
      return objects.map((object) => answers.get(object));
    };
  }
  return cached as unknown as Checker;
}

interface Answers<Key, Value> {
  has(key: Key): boolean;
  get(key: Key): Value | undefined;
  set(key: Key, value: Value): unknown;
}

function answer<Key, Value>(answers: Answers<Key, Value>, key: Key, query: () => Value): Value {
  if (answers.has(key)) return answers.get(key) as Value;
  const value = query();
  answers.set(key, value);
  return value;
}
