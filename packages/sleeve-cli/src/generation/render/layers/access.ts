import { stringLiteral } from "../../../written-text.ts";
import type { ChosenMember } from "../class.ts";
import type { LayerCode } from "./layer-code.ts";

/** Checks each use of a member. */
export const accessCode: LayerCode = {
  field: "access",
  fieldType: "AccessCheck",
  option: () => "(request: AccessRequest) => boolean",
  isOptional: false,
  create: (option) => `new AccessCheck(${option})`,
  check: ({ member, list, symbol }) => {
    const use = `"call", ${member}, ${list}${symbol === undefined ? "" : `, ${symbol}`}`;
    return {
      name: "denied",
      statements: [`this.#access.require(${use});`],
      error: `this.#access.denied(${use})`,
    };
  },
  read: (member) => [required("read", member, "[]")],
  write: (member, value) => [required("write", member, `[${value}]`)],
};

function required(use: "read" | "write", { name, key }: ChosenMember, args: string): string {
  const symbol = key.startsWith("[") ? `, ${key.slice(1, -1)}` : "";
  return `this.#access.require("${use}", ${stringLiteral(name)}, ${args}${symbol});`;
}
