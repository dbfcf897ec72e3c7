import { accessText } from "../../isolation/naming.ts";
import { propertyKey } from "../../types/writing/type-text.ts";
import { stringLiteral } from "../../written-text.ts";
import type { Implementation, OutlineMember } from "../outline/model.ts";

/** Returns the entry of the adapter's object for a member whose type follows from use. */
export function implementationEntry(
  { member }: OutlineMember,
  implementation: Implementation,
  exported: string,
  target: string,
): string {
  const text =
    implementation.form === "asserted"
      ? `${operand(assertedCode(implementation, exported))} as ${target}[${stringLiteral(member)}]`
      : implementationCode(implementation, exported);
  const key = propertyKey(member);
  return key === text ? `${key},\n` : `${key}: ${text},\n`;
}

function implementationCode({ kind, property, parameters, form }: Implementation, exported: string): string {
  const value = `${exported}${property === undefined ? "" : accessText(property)}`;
  const list = parameters ? parameterList(parameters, exported) : "...args";
  switch (kind) {
    case "guard":
      return `(value) => value instanceof ${value}`;
    case "construct":
      return `(${list}) => new ${value}(${list})`;
    case "call":
      if (form === "direct") return value;
      // Without one list of parameters, the receiver is bound.
      if (!parameters) return property === undefined ? value : `${value}.bind(${exported})`;
      return `(${list}) => ${value}(${list})`;
    case "value":
      return value;
  }
}

/** Returns the parameters that are passed on, under names other than that of the outside value. */
function parameterList(parameters: NonNullable<Implementation["parameters"]>, exported: string): string {
  const [local] = exported.split(/[.[]/);
  return parameters
    .map(({ name, isRest }) => `${isRest ? "..." : ""}${name === local ? `${name}_` : name}`)
    .join(", ");
}

/** Returns code with the parameters of the outside function, of which the target declares a part. */
function assertedCode(implementation: Implementation, exported: string): string {
  const { kind, property } = implementation;
  const value = `${exported}${property === undefined ? "" : accessText(property)}`;
  if (kind === "construct")
    return `(...args: ConstructorParameters<typeof ${value}>) => new ${value}(...args)`;
  if (kind === "call" && property !== undefined)
    return `(...args: Parameters<typeof ${value}>) => ${value}(...args)`;
  return kind === "guard" ? implementationCode(implementation, exported) : value;
}

function operand(code: string): string {
  return code.includes("=>") ? `(${code})` : code;
}
