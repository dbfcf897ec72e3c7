import type { Declaration, Member } from "../../emit/module.ts";
import type { FlowExpression, FlowValue, StepMember } from "../facade/data-flow.ts";
import { type OperationPlan, type PlannedMember, stepsIn } from "../facade/operation.ts";
import type { WrapTarget } from "../target/target.ts";
import {
  accessors,
  bodied,
  type ChosenMember,
  classMembers,
  classOf,
  methodHead,
  withArticle,
} from "./class.ts";
import { memberAccess } from "./forwarder.ts";
import { openCode } from "./open-member.ts";

/** A subsystem as a facade has it. */
export interface FacadeField {
  readonly name: string;
  readonly type: string;
}

/** Returns a class that implements a target by members of several subsystems. */
export function facadeOf(
  target: WrapTarget,
  className: string,
  fields: readonly FacadeField[],
  members: readonly ChosenMember[],
  operations: ReadonlyMap<string, PlannedMember>,
): readonly Declaration[] {
  const facade = classOf(target, className, {
    doc: `${withArticle("A", target.name)} over several subsystems.`,
    fields: fields.map(({ name, type }) => `readonly #${name}: ${type}`),
    members: [
      constructorOf(fields),
      ...classMembers(members, (member) => {
        const operation = operations.get(member.name);
        if (operation?.kind === "plan") return operationCode(member, operation);
        if (operation?.kind === "property") return forwardedProperty(member, operation.subsystem.name);
        return openCode(member, [
          `Complete this member. ${operation ? oneSentence(operation.why) : "It has no steps."}`,
        ]);
      }),
    ],
  });
  return [facade];
}

function constructorOf(fields: readonly FacadeField[]): Member {
  const list = fields.map(({ name, type }) => `readonly ${name}: ${type};\n`).join("");
  return {
    code: bodied(
      `constructor(subsystems: {\n${list}})`,
      fields.map(({ name }) => `this.#${name} = subsystems.${name};`),
    ),
  };
}

function operationCode({ form, key }: ChosenMember, planned: OperationPlan): string {
  if (form.kind !== "method") return "";
  const [signature, ...others] = form.signatures;
  if (others.length > 0) return bodied(methodHead(form.signatures, key), forwardedCall(planned));
  return bodied(
    methodHead(form.signatures, key, planned.isAsync ? "async " : ""),
    bodyOf(planned, signature?.parameters ?? []),
  );
}

function forwardedCall({ steps: [onlyStep] }: OperationPlan): readonly string[] {
  if (!onlyStep) return [];
  const subsystem = `this.#${onlyStep.step.subsystem.name}`;
  return [`return Reflect.apply(${access(subsystem, onlyStep.step.member.key)}, ${subsystem}, args);`];
}

function bodyOf(planned: OperationPlan, parameters: readonly { readonly name: string }[]): readonly string[] {
  const names = new LocalNames(parameters.map(({ name }) => name));
  const isUndone = planned.steps.some(({ undo }) => undo);
  const [undo, error] = isUndone ? [names.take("undo"), names.take("error")] : ["", ""];
  const locals = new Map(planned.steps.map(({ step, local }) => [step, names.take(local)]));
  const code = new ExpressionCode(locals);
  const usedMembers = usedSteps(planned);
  const last = planned.steps.at(-1);
  const returned = planned.returns;
  const returnsLast =
    last !== undefined && returned?.kind === "value" && isWholeOf(returned.value, last.step);
  const lines = planned.steps.flatMap((called): readonly string[] => {
    const { step, undo: undone, isAsync: isAwaited } = called;
    const call = callOf(step, called.args, code);
    if (called === last && returnsLast) return [`return ${isAwaited && isUndone ? "await " : ""}${call};`];
    const waited = `${isAwaited ? "await " : ""}${call}`;
    return [
      usedMembers.has(step) ? `const ${locals.get(step)} = ${waited};` : `${waited};`,
      ...(undone
        ? [`${undo}.push(() => ${callOf({ ...step, member: undone.member }, undone.args, code)});`]
        : []),
    ];
  });
  const open = planned.holes.length === 0 ? [] : incompleteLines(planned.holes);
  const statements = [...lines, ...(returned && !returnsLast ? [`return ${code.of(returned)};`] : [])];
  if (!isUndone) return [...open, ...statements];
  const helper = planned.isAsync ? "await undoSteps" : "undoStepsNow";
  return [
    ...open,
    `const ${undo}: (() => unknown)[] = [];`,
    "try {",
    ...statements,
    `} catch (${error}) {`,
    `throw ${helper}(${undo}, ${error});`,
    "}",
  ];
}

/** Returns the steps whose results are used: by other steps, by what undoes them, or by the result. */
function usedSteps({ steps, returns }: OperationPlan): ReadonlySet<StepMember> {
  const expressions = [
    ...steps.flatMap(({ args, undo }) => [...args, ...(undo?.args ?? [])]),
    ...(returns ? [returns] : []),
  ];
  return new Set(expressions.flatMap(stepsIn));
}

function isWholeOf({ from, field }: FlowValue, step: StepMember): boolean {
  return field === undefined && from.kind === "step" && from.step === step;
}

function callOf(
  { subsystem, member }: StepMember,
  args: readonly FlowExpression[],
  code: ExpressionCode,
): string {
  return `${access(`this.#${subsystem.name}`, member.key)}(${args.map((arg) => code.of(arg)).join(", ")})`;
}

function access(owner: string, key: string): string {
  return `${owner}${memberAccess(key)}`;
}

/** Writes expressions over the names that results have in a method. */
class ExpressionCode {
  readonly #locals: ReadonlyMap<StepMember, string>;

  constructor(locals: ReadonlyMap<StepMember, string>) {
    this.#locals = locals;
  }

  of(expression: FlowExpression): string {
    if (expression.kind === "object") {
      const fields = expression.fields.map(({ key, value }) => {
        const text = this.of(value);
        return text === key ? key : `${key}: ${text}`;
      });
      return `{ ${fields.join(", ")} }`;
    }
    if (expression.kind === "hole") return INCOMPLETE;
    const { from, field } = expression.value;
    const owner = from.kind === "parameter" ? from.code : (this.#locals.get(from.step) ?? "");
    return field === undefined ? owner : `${owner}.${field}`;
  }
}

/** What stands where the developer has to write an expression. */
const INCOMPLETE = "incomplete";

function incompleteLines(holes: readonly string[]): readonly string[] {
  const [onlyHole = ""] = holes;
  return [
    ...(holes.length === 1
      ? [`// Complete this member. ${oneSentence(onlyHole)}`]
      : ["// Complete this member:", ...holes.map((why) => `// - ${oneSentence(why)}`)]),
    `const ${INCOMPLETE}: never = "Replace it below, and remove this line.";`,
  ];
}

/** Gives names that a method does not have yet. */
class LocalNames {
  readonly #taken: Set<string>;

  constructor(taken: readonly string[]) {
    this.#taken = new Set([...taken, "args", INCOMPLETE]);
  }

  take(purpose: string): string {
    let name = RESERVED.test(purpose) ? `${purpose}Result` : purpose;
    for (let number = 2; this.#taken.has(name); number++) name = `${purpose}${number}`;
    this.#taken.add(name);
    return name;
  }
}

const RESERVED =
  /^(?:arguments|await|break|case|catch|class|const|continue|debugger|default|delete|do|else|enum|eval|export|extends|false|finally|for|function|if|implements|import|in|instanceof|interface|let|new|null|package|private|protected|public|return|static|super|switch|this|throw|true|try|typeof|undefined|var|void|while|with|yield)$/;

function forwardedProperty({ key, form }: ChosenMember, subsystem: string): string {
  if (form.kind !== "property") return "";
  const value = access(`this.#${subsystem}`, key);
  return accessors(key, form, [`return ${value};`], [`${value} = value;`]);
}

function oneSentence(text: string): string {
  const line = text.replace(/\s+/g, " ").replace(/\.$/, "");
  return `${line.charAt(0).toUpperCase()}${line.slice(1)}.`;
}
