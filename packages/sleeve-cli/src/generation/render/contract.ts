import { camelCase } from "../../types/type-text.ts";
import { stringLiteral } from "../../written-text.ts";
import type { WrapTarget } from "../target.ts";
import type { ChosenMember, MemberLine } from "./class.ts";

/** An adapter that a contract is run over. */
export interface ContractImplementation {
  readonly className: string;
  /** The module of the adapter, as the file of the contract imports it. */
  readonly specifier: string;
}

/** Writes the contract of a target, and the implementations behind a bridge that it is run over. */
export function contractLines(
  { type, name, typeParameters }: WrapTarget,
  constant: string,
  members: readonly ChosenMember[],
  implementations: readonly ContractImplementation[],
): readonly MemberLine[] {
  const target =
    typeParameters.length > 0
      ? type.replace(/<.*$/s, `<${typeParameters.map(() => "unknown").join(", ")}>`)
      : type;
  const keys = implementations.map(({ className }) => camelCase(className));
  const parameters = implementations.map(
    ({ className }, index) =>
      `  readonly ${keys[index]}: () => ConstructorParameters<typeof ${className}>[0];`,
  );
  return [
    ...implementations.map(({ className, specifier }) => ({
      text: `import { ${className} } from ${stringLiteral(specifier)};`,
    })),
    ...(implementations.length === 0 ? [] : [{ text: "" }]),
    { text: `/** What every \`${name}\` must do. Add laws, examples and refusals with \`extends\`. */` },
    { text: `export const ${constant} = contract<${target}>(${stringLiteral(name)}, {` },
    { text: "  surface: {" },
    ...members.map(({ name: member, key, isCalled }) => ({
      text: `    ${key}: "${isCalled ? "method" : "property"}",`,
      member,
    })),
    { text: "  }," },
    { text: "});" },
    ...(implementations.length === 0
      ? []
      : [
          { text: "" },
          { text: "/** Creates what each implementation stands over. */" },
          { text: "export interface Adaptees {" },
          ...parameters.map((text) => ({ text })),
          { text: "}" },
          { text: "" },
          {
            text: "/** The implementations, as `conforms` of `sleeve/vitest` and `checkContract` take them. */",
          },
          { text: "export function implementationsOver(adaptees: Adaptees) {" },
          { text: "  return {" },
          ...implementations.map(({ className }, index) => ({
            text: `    ${keys[index]}: () => new ${className}(adaptees.${keys[index]}()),`,
          })),
          { text: "  };" },
          { text: "}" },
        ]),
    { text: "" },
  ];
}
