import { functionOf } from "../call-code.ts";
import type { LayerCode } from "./layer-code.ts";

/** Limits how long promises take, and how many calls are in flight. */
export const limitedCode: LayerCode = {
  field: "limits",
  fieldType: "CallLimits",
  option: () => "CallLimitsOptions",
  isOptional: false,
  create: (option) => `new CallLimits(${option})`,
  around:
    (inner, { member }) =>
    (sink) =>
      sink(`this.#limits.run(${member}, ${functionOf(inner)})`),
};
