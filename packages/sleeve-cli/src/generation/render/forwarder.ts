import type { MethodForm, PropertyForm } from "../members.ts";
import type { WrapTarget } from "../target.ts";
import { type ChosenMember, classLines, type MemberLine } from "./class.ts";

/**
 * Writes a class that implements a target, and forwards every member to another object. A member that returns that object
 * returns the forwarder.
 */
export function forwarderLines(
  { type, name, parameters, isImplementable }: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
): readonly MemberLine[] {
  const head = [
    `/** Forwards every member of a \`${name}\`. Extend it, and override members, to change some of them. */`,
    `export class ${className}${parameters} ${isImplementable ? `implements ${type} ` : ""}{`,
    `  readonly #subject: ${type};`,
    "",
    `  constructor(subject: ${type}) {`,
    "    this.#subject = subject;",
    "  }",
  ];
  return classLines(head, members, (member) => forwardingLines(member, isImplementable));
}

/** Writes a member that forwards to `#subject`. */
export function forwardingLines({ key, form }: ChosenMember, isImplementable: boolean): readonly string[] {
  return form.kind === "method" ? methodLines(key, form, isImplementable) : propertyLines(key, form);
}

function methodLines(key: string, { signatures }: MethodForm, isImplementable: boolean): readonly string[] {
  const [first, ...others] = signatures;
  if (!first) return [];
  const access = accessTo(key);
  if (others.length > 0) {
    const call = `Reflect.apply(${access}, this.#subject, args)`;
    const mayBeTarget = signatures.some((signature) => signature.mayBeTarget);
    return [
      ...signatures.map(({ text }) => `  ${key}${text};`),
      `  ${key}(...args: unknown[]): unknown {`,
      ...(mayBeTarget
        ? [`    const result: unknown = ${call};`, "    return result === this.#subject ? this : result;"]
        : [`    return ${call};`]),
      "  }",
    ];
  }
  const args = first.parameters.map(({ name, isRest }) => `${isRest ? "..." : ""}${name}`).join(", ");
  const call = `${access}(${args})`;
  const head = `  ${key}${first.text} {`;
  if (first.result.startsWith("asserts ")) return [head, `    ${call};`, "  }"];
  if (!first.mayBeTarget) return [head, `    return ${call};`, "  }"];
  const own = first.result === "this" || isImplementable ? "this" : "(this as never)";
  const other = first.result === "this" ? "(result as this)" : "result";
  return [
    head,
    `    const result = ${call};`,
    `    return result === this.#subject ? ${own} : ${other};`,
    "  }",
  ];
}

function propertyLines(
  key: string,
  { type, written, isFunction, assertion }: PropertyForm,
): readonly string[] {
  const access = accessTo(key);
  const found = isFunction ? `${access}?.bind(this.#subject)` : access;
  const value = assertion === undefined ? found : `${found} as ${assertion}`;
  const read = [`  get ${key}(): ${type} {`, `    return ${value};`, "  }"];
  if (written === undefined) return read;
  return [...read, "", `  set ${key}(value: ${written}) {`, `    ${access} = value;`, "  }"];
}

/** Returns the expression of a member of the subject. */
export function accessTo(key: string): string {
  if (key.startsWith("[")) return `this.#subject${key}`;
  return key.startsWith('"') ? `this.#subject[${key}]` : `this.#subject.${key}`;
}
