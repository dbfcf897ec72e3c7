import { stringLiteral } from "../../written-text.ts";
import type { Candidate, CoveredSignature } from "../adapt/candidates.ts";
import type { Choice } from "../adapt/choose.ts";
import type { WrittenSignature } from "../members.ts";
import type { WrapTarget } from "../target.ts";
import { indented } from "./call-code.ts";
import { type ChosenMember, classLines, type MemberLine, withArticle } from "./class.ts";
import { openLines, overloadsOf } from "./open-member.ts";

/** Writes a class that implements a target over an adaptee. Members without a proposal do not compile until they are completed. */
export function adapterLines(
  { type, name, parameters, isImplementable }: WrapTarget,
  className: string,
  adaptee: { readonly type: string; readonly name: string },
  members: readonly ChosenMember[],
  choices: ReadonlyMap<string, Choice>,
  isCast: boolean,
): readonly MemberLine[] {
  const head = [
    `/** ${withArticle("A", name)} over ${withArticle("a", adaptee.name)}. */`,
    `export class ${className}${parameters} ${isImplementable ? `implements ${type} ` : ""}{`,
    `  readonly #adaptee: ${adaptee.type};`,
    "",
    `  constructor(adaptee: ${adaptee.type}) {`,
    "    this.#adaptee = adaptee;",
    "  }",
  ];
  const lines = classLines(head, members, (member) => {
    const choice = choices.get(member.name);
    if (!choice?.chosen) return openLines(member, candidateLines(choice));
    const code = adaptedLines(member, choice.chosen, member.key);
    return isCast
      ? code.map((line) => line.replace(/return this;$/, `return this as unknown as ${type};`))
      : code;
  });
  const uses = (helper: string) => lines.some(({ text }) => text.includes(`this.${helper}(`));
  return [
    ...lines.slice(0, -2),
    ...(uses("#adapted") ? adaptedMethod(type, className, adaptee.type, isCast) : []),
    ...(uses("#unwrapped") ? unwrappedMethod(type, className, adaptee.type) : []),
    ...lines.slice(-2),
  ];
}

/** Writes the method that adapts objects that members of the adaptee return. */
function adaptedMethod(
  type: string,
  className: string,
  adaptee: string,
  isCast: boolean,
): readonly MemberLine[] {
  const made = `new ${className}(adaptee)`;
  return [
    "",
    "  /** Adapts what the adaptee returns. A fluent method returns the adaptee itself. */",
    `  #adapted(adaptee: ${adaptee}): ${type} {`,
    isCast
      ? `    return (adaptee === this.#adaptee ? this : ${made}) as unknown as ${type};`
      : `    return adaptee === this.#adaptee ? this : ${made};`,
    "  }",
  ].map((text) => ({ text, member: ADAPTED }));
}

/** Writes the method that takes adaptees out of adapters that are given as arguments. */
function unwrappedMethod(type: string, className: string, adaptee: string): readonly MemberLine[] {
  return [
    "",
    "  /** Takes the adaptee out of an adapter. Other values are returned as they are. */",
    `  #unwrapped<Value>(value: Value): Exclude<Value, ${type}> | ${adaptee} {`,
    `    return value instanceof ${className} ? value.#adaptee : (value as Exclude<Value, ${type}>);`,
    "  }",
  ].map((text) => ({ text, member: ADAPTED }));
}

/** What the lines of that method are tagged with. */
export const ADAPTED = "#adapted";

/** Writes a member under a key, with the code of a candidate. */
export function adaptedLines({ form }: ChosenMember, candidate: Candidate, key: string): readonly string[] {
  const { setter } = candidate;
  if (form.kind === "method") {
    const [first, ...others] = form.signatures;
    if (candidate.overloads) return overloadedLines(form.signatures, candidate.overloads, key);
    const head = others.length > 0 ? "(...args: unknown[]): unknown" : (first?.text ?? "()");
    return [...overloadsOf(form.signatures, key), ...codeLines(key, head, candidate)];
  }
  const { overloads } = candidate;
  const body = overloads
    ? ["return ((...args: unknown[]): unknown => {", ...dispatching(overloads, key), "}) as never;"]
    : trimmed(candidate.body);
  const read = [`  get ${key}(): ${form.type} {`, ...indented(body, 2), "  }"];
  const parts = overloads ? coveredLines(form.called?.signatures ?? [], overloads, key) : [];
  if (form.written === undefined || !setter) return [...read, ...parts];
  const head = `  set ${key}(${setter.join().includes("value") ? "value" : "_value"}: ${form.written}) {`;
  return [...read, "", head, ...indented(setter, 2), "  }", ...parts];
}

/** Writes a member with several signatures: one that distinguishes them, and a private one for each. */
function overloadedLines(
  signatures: readonly WrittenSignature[],
  covered: readonly CoveredSignature[],
  key: string,
): readonly string[] {
  return [
    ...overloadsOf(signatures, key),
    `  ${key}(...args: unknown[]): unknown {`,
    ...indented(dispatching(covered, key), 2),
    "  }",
    ...coveredLines(signatures, covered, key),
  ];
}

/** Writes what calls the private method of the signature that arguments have. */
function dispatching(covered: readonly CoveredSignature[], key: string): readonly string[] {
  return [
    ...covered.map(
      ({ index, test }) => `if (${test}) return Reflect.apply(this.#${partName(key, index)}, this, args);`,
    ),
    `throw new TypeError(${stringLiteral(`${key}: these arguments are not adapted`)});`,
  ];
}

function coveredLines(
  signatures: readonly WrittenSignature[],
  covered: readonly CoveredSignature[],
  key: string,
): readonly string[] {
  return covered.flatMap(({ index, code }) => [
    "",
    ...codeLines(`#${partName(key, index)}`, signatures[index]?.text ?? "()", code),
  ]);
}

function partName(key: string, index: number): string {
  return `${key.replace(/\W/g, "_")}${index + 1}`;
}

/** Writes the code of one of several signatures as a method of its own. */
export function signatureLines(
  { form }: ChosenMember,
  { index, code }: CoveredSignature,
  key: string,
): readonly string[] {
  const signatures = form.kind === "method" ? form.signatures : (form.called?.signatures ?? []);
  return codeLines(key, signatures[index]?.text ?? "()", code);
}

function codeLines(
  key: string,
  head: string,
  { body, isAsync, isGenerator = false }: Pick<Candidate, "body" | "isAsync" | "isGenerator">,
): readonly string[] {
  return [
    `  ${isAsync ? "async " : ""}${isGenerator ? "*" : ""}${key}${head} {`,
    ...indented(trimmed(body), 2),
    "  }",
  ];
}

function trimmed(body: readonly string[]): readonly string[] {
  return body.map((line) => line.trim());
}

/** Says what the candidates of an open member are, and why each falls short. */
function candidateLines(choice: Choice | undefined): readonly string[] {
  const ranked = choice?.ranked ?? [];
  if (ranked.length === 0) return ["Complete this member. The adaptee has no similar one."];
  return [
    "Complete this member. Candidates, and why each falls short:",
    ...ranked.slice(0, 3).map(({ uses, score, why }) => `- ${uses} (${score.toFixed(2)}): ${oneLine(why)}`),
  ];
}

function oneLine(text: string): string {
  return text.replace(/\s+/g, " ");
}
