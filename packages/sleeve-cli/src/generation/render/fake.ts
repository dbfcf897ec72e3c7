import type { Declaration } from "../../emit/module.ts";
import { stringLiteral } from "../../written-text.ts";
import type { MethodForm } from "../target/signature-forms.ts";
import type { WrapTarget } from "../target/target.ts";
import {
  accessors,
  argumentList,
  bodied,
  type ChosenMember,
  classMembers,
  classOf,
  methodHead,
  withArticle,
} from "./class.ts";
import { freshNames } from "./names.ts";

/**
 * Returns a class for tests that implements a target with the answers that it is given. Any other required member throws when it
 * is used.
 */
export function fakeOf(
  target: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
): readonly Declaration[] {
  const { type, name } = target;
  const names = new Set(members.map((member) => member.name));
  const answers =
    ["answers", "givenAnswers", "answersGiven"].find((word) => !names.has(word)) ?? "allAnswers";
  const needsAnswers = members.some(({ isOptional }) => !isOptional);
  const fake = classOf(target, className, {
    doc: `${withArticle("A", name)} for tests. It has the members that \`${answers}\` has; using another one throws.`,
    members: [
      {
        doc: "The members, as functions and values. They can be replaced at any time.",
        code: `readonly ${answers}: Partial<${type}>;`,
      },
      { code: bodied(`constructor(${answers}: Partial<${type}> = {})`, [`this.${answers} = ${answers};`]) },
      ...(needsAnswers ? [{ code: answerMethod(target, className, answers) }] : []),
      ...classMembers(members, (member) => memberCode(member, answers)),
    ],
  });
  return [fake];
}

/** Returns the method that returns a required member, or throws. */
function answerMethod({ type, parameterNames }: WrapTarget, className: string, answers: string): string {
  const key = freshNames(parameterNames)("Key");
  return bodied(`#answer<${key} extends keyof ${type}>(key: ${key}): Required<${type}>[${key}]`, [
    `if (!(key in this.${answers})) throw new Error(\`${className}: \${String(key)} is not given. Set it in ${answers}.\`);`,
    `return this.${answers}[key] as Required<${type}>[${key}];`,
  ]);
}

function memberCode({ key, form, isOptional }: ChosenMember, answers: string): string {
  const name = key.startsWith('"') ? key : stringLiteral(key);
  const index = key.startsWith("[") ? key.slice(1, -1) : name;
  const place = `this.${answers}[${index}]`;
  const answer = isOptional ? place : `this.#answer(${index})`;
  if (form.kind === "method") return methodCode(key, form, answer);
  const { type, written, assertion } = form;
  return accessors(
    key,
    form,
    [`return ${assertion === undefined ? answer : `${answer} as ${assertion}`};`],
    [`${place} = value${written === type ? "" : " as never"};`],
  );
}

function methodCode(key: string, { signatures }: MethodForm, answer: string): string {
  const [signature, ...others] = signatures;
  const head = methodHead(signatures, key);
  if (!signature) return bodied(head, []);
  if (others.length > 0) return bodied(head, [`return Reflect.apply(${answer}, this, args);`]);
  if (!signature.isAssertion)
    return bodied(head, [
      `return ${answer}(${argumentList(signature)})${signature.result === "this" ? " as this" : ""};`,
    ]);
  const parameters = signature.parameters.map(({ name, type }) => `${name}: ${type}`).join(", ");
  return bodied(head, [
    `const check: (${parameters}) => void = ${answer};`,
    `check(${argumentList(signature)});`,
  ]);
}
