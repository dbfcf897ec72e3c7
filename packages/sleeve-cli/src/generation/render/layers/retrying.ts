import { functionOf } from "../call-code.ts";
import { type CompiledLayer, optionOf } from "./compiled-layer.ts";

/** Calls again while promises reject. */
export const retryingCode: CompiledLayer = {
  field: "retries",
  fieldType: "Retries",
  option: optionOf("RetriesOptions"),
  isOptional: true,
  create: (option) => `new Retries(${option} ?? {})`,
  parts: ["Retries"],
  imports: [],
  around: (inner) => (sink) => sink(`this.#retries.run(${functionOf(inner)})`),
};
