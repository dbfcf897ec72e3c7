import { functionOf } from "../call-code.ts";
import type { LayerCode } from "./layer-code.ts";

/** Calls again while promises reject. */
export const retryingCode: LayerCode = {
  field: "retries",
  fieldType: "Retries",
  option: () => "RetriesOptions",
  isOptional: true,
  create: (option) => `new Retries(${option} ?? {})`,
  around: (inner) => (sink) => sink(`this.#retries.run(${functionOf(inner)})`),
};
