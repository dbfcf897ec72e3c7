import { stringLiteral } from "../../../written-text.ts";
import { type CompiledLayer, optionOf } from "./compiled-layer.ts";

/** Checks each use of a member. */
export const accessCode: CompiledLayer = {
  field: "access",
  fieldType: "AccessCheck",
  option: optionOf("(request: UseRequest) => boolean"),
  isOptional: false,
  create: (option) => `new AccessCheck(${option})`,
  parts: ["AccessCheck"],
  imports: [],
  check: ({ member, list }) => ({
    name: "denied",
    statements: [`this.#access.require("call", ${member}, ${list});`],
    error: `this.#access.denied("call", ${member}, ${list})`,
  }),
  read: ({ name }) => [`this.#access.require("read", ${stringLiteral(name)}, []);`],
  write: ({ name }, value) => [`this.#access.require("write", ${stringLiteral(name)}, [${value}]);`],
};
