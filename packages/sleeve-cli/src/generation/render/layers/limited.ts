import { expressionOf, functionOf } from "../call-code.ts";
import { type CompiledLayer, optionOf } from "./compiled-layer.ts";

/** Limits how long promises take. */
export const limitedCode: CompiledLayer = {
  field: "deadline",
  fieldType: "Deadline",
  option: optionOf("DeadlineOptions"),
  isOptional: false,
  create: (option) => `new Deadline(${option})`,
  parts: ["Deadline"],
  imports: [],
  around:
    (inner, { member }) =>
    (sink) =>
      sink(`this.#deadline.limit(${member}, ${expressionOf(inner) ?? `(${functionOf(inner)})()`})`),
};
