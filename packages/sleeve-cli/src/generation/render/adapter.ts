import { joined, textOf } from "../../emit/code.ts";
import type { Declaration, Member } from "../../emit/module.ts";
import { privateNamesIn } from "../../emit/references.ts";
import { stringLiteral } from "../../written-text.ts";
import type { Choice } from "../adapt/choose.ts";
import type { Candidate, CoveredSignature } from "../adapt/implementation.ts";
import type { WrittenSignature } from "../target/signature-forms.ts";
import type { WrapTarget } from "../target/target.ts";
import {
  accessors,
  bodied,
  type ChosenMember,
  classMembers,
  classOf,
  methodHead,
  overloadedHead,
  withArticle,
} from "./class.ts";
import { freshNames } from "./names.ts";
import { openCode } from "./open-member.ts";

/** The adaptee of an adapter, as its file names it. */
export interface NamedAdaptee {
  readonly type: string;
  readonly name: string;
}

/** The owner of errors in the code that adapts what the adaptee returns. */
export const ADAPTED = "#adapted";

/**
 * Returns a class that implements a target over an adaptee. Members without a proposal do not compile until they are completed.
 *
 * @param isCast whether the class is not of the target's type, because members are open or the target has private ones
 */
export function adapterOf(
  target: WrapTarget,
  className: string,
  adaptee: NamedAdaptee,
  members: readonly ChosenMember[],
  choices: ReadonlyMap<string, Choice>,
  isCast: boolean,
): readonly Declaration[] {
  const self = isCast ? `this as unknown as ${target.type}` : "this";
  const adapted = classMembers(members, (member) => {
    const choice = choices.get(member.name);
    return choice?.chosen
      ? adaptedCode(member, choice.chosen, member.key, self)
      : openCode(member, candidateLines(choice));
  });
  const helpers = privateNamesIn(
    textOf(
      joined(
        adapted.map(({ code }) => code),
        "\n",
      ),
    ).text,
  );
  const adapter = classOf(target, className, {
    doc: `${withArticle("A", target.name)} over ${withArticle("a", adaptee.name)}.`,
    fields: [`readonly #adaptee: ${adaptee.type}`],
    members: [
      { code: bodied(`constructor(adaptee: ${adaptee.type})`, ["this.#adaptee = adaptee;"]) },
      ...adapted,
      ...(helpers.has("adapted") ? [adaptedMethod(target, className, adaptee, isCast)] : []),
      ...(helpers.has("unwrapped") ? [unwrappedMethod(target, className, adaptee)] : []),
    ],
  });
  return [adapter];
}

/** Returns the method that adapts objects that members of the adaptee return. */
function adaptedMethod(
  { type }: WrapTarget,
  className: string,
  adaptee: NamedAdaptee,
  isCast: boolean,
): Member {
  const value = `adaptee === this.#adaptee ? this : new ${className}(adaptee)`;
  return {
    doc: "Adapts what the adaptee returns. A fluent method returns the adaptee itself.",
    owners: [ADAPTED],
    code: bodied(`#adapted(adaptee: ${adaptee.type}): ${type}`, [
      `return ${isCast ? `(${value}) as unknown as ${type}` : value};`,
    ]),
  };
}

/** Returns the method that takes adaptees out of adapters that are passed as arguments. */
function unwrappedMethod(
  { type, parameterNames }: WrapTarget,
  className: string,
  adaptee: NamedAdaptee,
): Member {
  const value = freshNames(parameterNames)("Value");
  return {
    doc: "Takes the adaptee out of an adapter. Other values are returned as they are.",
    owners: [ADAPTED],
    code: bodied(`#unwrapped<${value}>(value: ${value}): Exclude<${value}, ${type}> | ${adaptee.type}`, [
      `return value instanceof ${className} ? value.#adaptee : (value as Exclude<${value}, ${type}>);`,
    ]),
  };
}

/**
 * Returns a member under a key, with the code of a candidate.
 *
 * @param self the adapter, as an expression of the target's type
 */
export function adaptedCode({ form }: ChosenMember, candidate: Candidate, key: string, self: string): string {
  const { overloads, setter } = candidate;
  if (form.kind === "method") {
    if (overloads) return overloadedCode(form.signatures, overloads, key, self);
    return bodied(methodHead(form.signatures, key, prefixOf(candidate)), bodyOf(candidate, self));
  }
  const read = overloads
    ? ["return ((...args: unknown[]): unknown => {", ...dispatching(overloads, key), "}) as never;"]
    : bodyOf(candidate, self);
  const parts = overloads ? coveredCode(form.called?.signatures ?? [], overloads, key, self) : [];
  const isWritten = form.written !== undefined && setter !== undefined;
  const accessor = accessors(key, isWritten ? form : { ...form, written: undefined }, read, setter ?? []);
  return [accessor, ...parts].join("\n\n");
}

/** Returns a member with several signatures: one that distinguishes them, and a private one for each. */
function overloadedCode(
  signatures: readonly WrittenSignature[],
  covered: readonly CoveredSignature[],
  key: string,
  self: string,
): string {
  return [
    bodied(overloadedHead(signatures, key), dispatching(covered, key)),
    ...coveredCode(signatures, covered, key, self),
  ].join("\n\n");
}

/** Calls the private method of the signature that arguments have. */
function dispatching(covered: readonly CoveredSignature[], key: string): readonly string[] {
  return [
    ...covered.map(
      ({ index, test }) => `if (${test}) return Reflect.apply(this.#${partName(key, index)}, this, args);`,
    ),
    `throw new TypeError(${stringLiteral(`${key}: these arguments are not adapted`)});`,
  ];
}

function coveredCode(
  signatures: readonly WrittenSignature[],
  covered: readonly CoveredSignature[],
  key: string,
  self: string,
): readonly string[] {
  return covered.map(({ index, code }) =>
    signatureMethod(signatures[index], code, `#${partName(key, index)}`, self),
  );
}

function partName(key: string, index: number): string {
  return `${key.replace(/\W/g, "_")}${index + 1}`;
}

/** Returns the code of one of several signatures as a method of its own. */
export function signatureCode(
  { form }: ChosenMember,
  { index, code }: CoveredSignature,
  key: string,
): string {
  const signatures = form.kind === "method" ? form.signatures : (form.called?.signatures ?? []);
  return signatureMethod(signatures[index], code, key, "this");
}

type FunctionBody = Pick<Candidate, "body" | "isAsync" | "isGenerator" | "returnsSelf">;

function signatureMethod(
  signature: WrittenSignature | undefined,
  code: FunctionBody,
  key: string,
  self: string,
): string {
  return bodied(`${prefixOf(code)}${key}${signature?.text ?? "()"}`, bodyOf(code, self));
}

function prefixOf({ isAsync, isGenerator = false }: FunctionBody): string {
  return `${isAsync ? "async " : ""}${isGenerator ? "*" : ""}`;
}

function bodyOf({ body, returnsSelf = false }: FunctionBody, self: string): readonly string[] {
  return returnsSelf ? [...body, `return ${self};`] : body;
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
