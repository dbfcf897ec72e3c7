import type { Declaration } from "../../emit/module.ts";
import type { MethodForm, PropertyForm } from "../target/signature-forms.ts";
import type { WrapTarget } from "../target/target.ts";
import {
  accessors,
  argumentList,
  bodied,
  type ChosenMember,
  classMembers,
  classOf,
  methodHead,
} from "./class.ts";

/**
 * Returns a class that implements a target, and forwards every member to another object. A member that returns that object
 * returns the forwarder.
 */
export function forwarderOf(
  target: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
): readonly Declaration[] {
  const { type, name, isImplementable } = target;
  const forwarder = classOf(target, className, {
    doc: `Forwards every member of a \`${name}\`. Extend it, and override members, to change some of them.`,
    fields: [`readonly #subject: ${type}`],
    members: [
      { code: bodied(`constructor(subject: ${type})`, ["this.#subject = subject;"]) },
      ...classMembers(members, (member) => forwardingCode(member, isImplementable)),
    ],
  });
  return [forwarder];
}

/** Returns a member that forwards to `#subject`. */
export function forwardingCode({ key, form }: ChosenMember, isImplementable: boolean): string {
  return form.kind === "method" ? methodCode(key, form, isImplementable) : propertyCode(key, form);
}

function methodCode(key: string, { signatures }: MethodForm, isImplementable: boolean): string {
  return bodied(methodHead(signatures, key), forwardingStatements(key, signatures, isImplementable));
}

function forwardingStatements(
  key: string,
  signatures: MethodForm["signatures"],
  isImplementable: boolean,
): readonly string[] {
  const [signature, ...others] = signatures;
  if (!signature) return [];
  const access = accessTo(key);
  if (others.length > 0) {
    const call = `Reflect.apply(${access}, this.#subject, args)`;
    return signatures.some(({ mayBeTarget }) => mayBeTarget)
      ? [`const result: unknown = ${call};`, "return result === this.#subject ? this : result;"]
      : [`return ${call};`];
  }
  const call = `${access}(${argumentList(signature)})`;
  if (signature.isAssertion) return [`${call};`];
  if (!signature.mayBeTarget) return [`return ${call};`];
  const isFluent = signature.result === "this";
  const wrapper = isFluent || isImplementable ? "this" : "(this as never)";
  return [
    `const result = ${call};`,
    `return result === this.#subject ? ${wrapper} : ${isFluent ? "(result as this)" : "result"};`,
  ];
}

function propertyCode(key: string, form: PropertyForm): string {
  const { isFunction, assertion } = form;
  const access = accessTo(key);
  const value = isFunction ? `${access}?.bind(this.#subject)` : access;
  return accessors(
    key,
    form,
    [`return ${assertion === undefined ? value : `${value} as ${assertion}`};`],
    [`${access} = value;`],
  );
}

/** Returns the expression of a member of the subject. */
export function accessTo(key: string): string {
  return `this.#subject${memberAccess(key)}`;
}

/** Returns what follows an object to read a member with a key as it is declared. */
export function memberAccess(key: string): string {
  if (key.startsWith("[")) return key;
  return key.startsWith('"') ? `[${key}]` : `.${key}`;
}
