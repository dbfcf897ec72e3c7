import type { Declaration } from "../../emit/module.ts";
import { camelCase } from "../../types/writing/type-text.ts";
import { stringLiteral } from "../../written-text.ts";
import type { WrapTarget } from "../target/target.ts";
import { bodied, type ChosenMember } from "./class.ts";
import { surfaceCode } from "./surface.ts";

/** An adapter that a contract is run over. */
export interface ContractImplementation {
  readonly className: string;
  /** The module of the adapter, as the file of the contract imports it. */
  readonly specifier: string;
}

/** Returns the contract of a target, and the implementations behind a bridge that it is run over. */
export function contractOf(
  { bareType, name, typeParameters }: WrapTarget,
  constant: string,
  members: readonly ChosenMember[],
  implementations: readonly ContractImplementation[],
): readonly Declaration[] {
  const target =
    typeParameters.length > 0 ? `${bareType}<${typeParameters.map(() => "unknown").join(", ")}>` : bareType;
  const contract: Declaration = {
    kind: "value",
    name: constant,
    doc: `What every \`${name}\` must do. Add laws, examples and refusals with \`extends\`.`,
    value: [`contract<${target}>(${stringLiteral(name)}, {\nsurface: `, surfaceCode(members), ",\n})"],
  };
  return implementations.length === 0 ? [contract] : [contract, ...implementationsOver(implementations)];
}

function implementationsOver(implementations: readonly ContractImplementation[]): readonly Declaration[] {
  const created = implementations.map(({ className }) => {
    const key = camelCase(className);
    return `${key}: () => new ${className}(adaptees.${key}()),\n`;
  });
  return [
    {
      kind: "interface",
      name: "Adaptees",
      doc: "Creates the adaptee of each implementation.",
      members: implementations.map(({ className }) => ({
        code: `readonly ${camelCase(className)}: () => ConstructorParameters<typeof ${className}>[0]`,
      })),
    },
    {
      kind: "code",
      code: `/** The implementations, as \`conforms\` of \`sleeve/vitest\` and \`checkContract\` take them. */\nexport ${bodied("function implementationsOver(adaptees: Adaptees)", [`return {\n${created.join("")}};`])}`,
    },
  ];
}
