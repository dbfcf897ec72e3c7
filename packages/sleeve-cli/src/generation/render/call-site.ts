import { hasSecretName, REDACTED } from "sleeve/generated";
import { stringLiteral } from "../../written-text.ts";
import type { Settlement, WrittenSignature } from "../target/signature-forms.ts";
import type { CallSite } from "./call-code.ts";
import type { ChosenMember } from "./class.ts";
import { freshNames } from "./names.ts";

/** A call of a method with the parameters of a signature. */
export function methodSite(
  member: ChosenMember,
  { parameters, names }: WrittenSignature,
  settlement: Settlement,
): CallSite {
  const [onlyParameter] = parameters;
  const items = parameters.map(({ name, isRest }) => `${isRest ? "..." : ""}${name}`);
  const fresh = freshNames(parameters.map((parameter) => parameter.name));
  // All parameters are named as those of the member.
  if (
    parameters.length === 1 &&
    onlyParameter?.isRest === true &&
    names.length > 0 &&
    onlyParameter.name === "args"
  )
    return {
      ...siteOf(member, settlement, fresh),
      args: names.map((name, index) => ({ value: `args[${index}]`, name })),
      list: "[...args]",
      loggedList: listWithoutSecrets("args", [names]),
    };
  const logged = items.map((item, index) => (hasSecretName(names[index] ?? item) ? SECRET : item));
  return {
    ...siteOf(member, settlement, fresh),
    args: parameters.map(({ name, isRest }, index) => ({
      value: isRest ? `${name}[0]` : name,
      name: names[index] ?? name,
    })),
    list: `[${items.join(", ")}]`,
    loggedList: `[${logged.join(", ")}]`,
  };
}

/** A call whose arguments are a list `args`. */
export function listSite(
  member: ChosenMember,
  names: readonly string[],
  settlement: Settlement,
  signatures: readonly (readonly string[])[],
): CallSite {
  return {
    ...siteOf(member, settlement, freshNames(["args", "method"])),
    args: names.map((name, index) => ({ value: `args[${index}]`, name })),
    list: "[...args]",
    loggedList: listWithoutSecrets("args", signatures),
  };
}

function siteOf(
  { name, key }: ChosenMember,
  settlement: Settlement,
  fresh: CallSite["fresh"],
): Pick<CallSite, "member" | "label" | "symbol" | "settlement" | "fresh"> {
  const symbol = key.startsWith("[") ? key.slice(1, -1) : undefined;
  return { member: stringLiteral(name), label: name, symbol, settlement, fresh };
}

const SECRET = stringLiteral(REDACTED);

function listWithoutSecrets(list: string, signatures: readonly (readonly string[])[]): string {
  const secret = new Set(
    signatures.flatMap((names) => names.flatMap((name, index) => (hasSecretName(name) ? [index] : []))),
  );
  if (secret.size === 0) return `[...${list}]`;
  const test = [...secret].map((index) => `index === ${index}`).join(" || ");
  return `${list}.map((value, index) => (${test} ? ${SECRET} : value))`;
}
