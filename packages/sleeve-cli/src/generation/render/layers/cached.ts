import { functionOf } from "../call-code.ts";
import { type CompiledLayer, optionOf } from "./compiled-layer.ts";

/**
 * Keeps results.
 *
 * @param keyOf the function that computes keys; `undefined` if the client has to pass one
 */
export function cachedCode(
  clearing: ReadonlySet<string>,
  keyOf: "argumentsKey" | "plainKey" | undefined,
): CompiledLayer {
  const isLibrary = keyOf === "argumentsKey";
  return {
    field: "results",
    fieldType: "ResultCache",
    option: optionOf(
      keyOf === undefined
        ? 'ResultCacheOptions & Required<Pick<ResultCacheOptions, "key">>'
        : "ResultCacheOptions",
    ),
    isOptional: keyOf !== undefined,
    create: (option) =>
      keyOf === undefined
        ? `new ResultCache(${option}, ${option}.key)`
        : `new ResultCache(${option} ?? {}, ${keyOf})`,
    parts: ["ResultCache", ...(keyOf === "plainKey" ? [keyOf] : [])],
    imports: isLibrary ? [keyOf] : [],
    around:
      (inner, { member, label, list }) =>
      (sink) =>
        sink(
          clearing.has(label)
            ? `this.#results.clearedBy(${functionOf(inner)})`
            : `this.#results.get(${member}, ${list}, ${functionOf(inner)})`,
        ),
    write: ({ name }) => (clearing.has(name) ? ["this.#results.clear();"] : []),
  };
}
