import { stringLiteral } from "../../../written-text.ts";
import type { CallSite } from "../call-code.ts";
import type { ChosenMember, MemberLine } from "../class.ts";
import type { CompiledLayer } from "./compiled-layer.ts";

/** Checks arguments and written values. */
export const guardCode: CompiledLayer = {
  field: "checks",
  fieldType: "CheckLists",
  option: (members) => [
    { text: "{" },
    ...members.flatMap((member): MemberLine[] => {
      const type = checksOf(member);
      return type === undefined ? [] : [{ text: `  readonly ${member.key}?: ${type};`, member: member.name }];
    }),
    { text: "}" },
  ],
  isOptional: false,
  // The option has the members that are called as lists, and the others with one check.
  create: (option) => `checkLists(${option})`,
  parts: ["checkLists", "ValueCheck"],
  imports: [],
  check: (site) => {
    const { args, label } = site;
    if (args.length === 0) return undefined;
    const list = `this.#checks${keyOf(site)}`;
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
    `requireAllowed(${stringLiteral(`${name}: the new value`)}, ${value}, this.#checks${accessTo(key)}?.[0]);`,
  ],
};

function keyOf({ member }: CallSite): string {
  const name = JSON.parse(member) as string;
  return name.startsWith("[") ? name : accessTo(name);
}

function accessTo(key: string): string {
  if (key.startsWith("[")) return key;
  return `[${key.startsWith('"') ? key : stringLiteral(key)}]`;
}

/** The type of the checks of a member; `undefined` if there is nothing to check. */
function checksOf({ form, isCalled }: ChosenMember): string | undefined {
  if (form.kind === "property") {
    if (form.isFunction || isCalled) return ANY;
    return form.written === undefined ? undefined : `ValueCheck<${form.written}>`;
  }
  const [only, ...others] = form.signatures;
  if (!only || others.length > 0) return ANY;
  if (only.parameters.length === 0) return undefined;
  // Types of the signature's own parameters have no meaning outside it.
  const isGeneric = only.text.startsWith("<");
  const checks = only.parameters.map(({ name, isRest, isOptional, type }) => {
    const checked = isRest || isGeneric || /\bthis\b/.test(type) ? "never" : type;
    return `${name}?: ValueCheck<${isOptional ? `Exclude<${checked}, undefined>` : checked}> | undefined`;
  });
  return `readonly [${checks.join(", ")}]`;
}

const ANY = "readonly (ValueCheck<never> | undefined)[]";
