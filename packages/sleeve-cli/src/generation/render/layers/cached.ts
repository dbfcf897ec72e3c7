import { functionOf } from "../call-code.ts";
import type { LayerCode } from "./layer-code.ts";

/**
 * Keeps results.
 *
 * @param clearing members that clear what is kept
 */
export function cachedCode(clearing: ReadonlySet<string>): LayerCode {
  return {
    field: "results",
    fieldType: "ResultCache",
    option: () => "ResultCacheOptions",
    isOptional: true,
    create: (option) => `new ResultCache(${option} ?? {})`,
    around:
      (inner, { member, label, list }) =>
      (sink) =>
        sink(
          clearing.has(label)
            ? `this.#results.clearedBy(${functionOf(inner)})`
            : `this.#results.call(${member}, ${list}, ${functionOf(inner)})`,
        ),
    write: ({ name }) => (clearing.has(name) ? ["this.#results.clear();"] : []),
  };
}
