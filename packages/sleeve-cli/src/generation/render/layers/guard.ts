import { type Code, owned } from "../../../emit/code.ts";
import { mentionsThis } from "../../../emit/references.ts";
import { stringLiteral } from "../../../written-text.ts";
import type { CallSite } from "../call-code.ts";
import type { ChosenMember } from "../class.ts";
import type { LayerCode } from "./layer-code.ts";

/** Checks arguments and written values. */
export const guardCode: LayerCode = {
  field: "checks",
  fieldType: "CheckLists",
  option: optionType,
  isOptional: false,
  // The option has the members that are called as lists, and the others with one check.
  create: (option) => `checkLists(${option})`,
  check: (site) => {
    const { args, label } = site;
    if (args.length === 0) return undefined;
    const list = `this.#checks${checksAt(site.symbol === undefined ? label : `[${site.symbol}]`)}`;
    const terms = args.map(
      ({ value, name }, index) => `(${stringLiteral(`${label}: ${name}`)}, ${value}, ${list}?.[${index}])`,
    );
    return {
      name: "refused",
      statements: terms.map((term) => `requireAllowed${term};`),
      error: terms.map((term) => `notAllowed${term}`).join(" ?? "),
    };
  },
  write: ({ name, key }, value) => [
    `requireAllowed(${stringLiteral(`${name}: the new value`)}, ${value}, this.#checks${checksAt(key.startsWith("[") ? key : name)}?.[0]);`,
  ],
};

/** Reads the list of a member, or of the symbol in brackets. */
function checksAt(key: string | CallSite["symbol"]): string {
  return key?.startsWith("[") ? key : `[${stringLiteral(key ?? "")}]`;
}

function optionType(members: readonly ChosenMember[]): Code {
  const fields = members.flatMap((member): Code[] => {
    const type = checksOf(member);
    return type === undefined ? [] : [owned([member.name], `readonly ${member.key}?: ${type};\n`)];
  });
  return ["{\n", fields, "}"];
}

/** The type of the checks of a member; `undefined` if there is nothing to check. */
function checksOf({ form, isCalled }: ChosenMember): string | undefined {
  if (form.kind === "property") {
    if (form.isFunction || isCalled) return ANY;
    return form.written === undefined ? undefined : `ValueCheck<${form.written}>`;
  }
  const [signature, ...others] = form.signatures;
  if (!signature || others.length > 0) return ANY;
  if (signature.parameters.length === 0) return undefined;
  const checks = signature.parameters.map(({ name, isRest, isOptional, type }) => {
    // Types of the signature's own parameters have no meaning outside it.
    const checked = isRest || signature.isGeneric || mentionsThis(type) ? "never" : type;
    return `${name}?: ValueCheck<${isOptional ? `Exclude<${checked}, undefined>` : checked}> | undefined`;
  });
  return `readonly [${checks.join(", ")}]`;
}

const ANY = "readonly (ValueCheck<never> | undefined)[]";
