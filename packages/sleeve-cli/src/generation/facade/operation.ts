import type { Type } from "../../compiler/typescript.ts";
import type { TypedMember, TypedParameter } from "../adapt/adaptee.ts";
import {
  type DataFlow,
  type FlowExpression,
  type FlowValue,
  isNoValue,
  type Need,
  type NoValue,
  type StepMember,
  type Subsystem,
  signaturesOf,
} from "./data-flow.ts";
import { inverseSimilarity } from "./inverse.ts";

/** An operation of a facade, as its target declares it. */
export interface Operation {
  readonly name: string;
  readonly parameters: readonly { readonly parameter: TypedParameter; readonly code: string }[];
  /** What it returns once a promise is resolved. */
  readonly result: Type;
  readonly isAsync: boolean;
}

/** A call that an operation makes. */
export interface OperationStep {
  readonly step: StepMember;
  readonly args: readonly FlowExpression[];
  /** What its result is called. */
  readonly local: string;
  readonly isAsync: boolean;
  /** What undoes it when a later step fails. */
  readonly undo: { readonly member: TypedMember; readonly args: readonly FlowExpression[] } | undefined;
}

export interface OperationPlan {
  readonly kind: "plan";
  readonly isAsync: boolean;
  readonly steps: readonly OperationStep[];
  readonly returns: FlowExpression | undefined;
  /** What is left to the developer. */
  readonly holes: readonly string[];
}

/** A property that a subsystem has under the same name. */
export interface ForwardedProperty {
  readonly kind: "property";
  readonly subsystem: Subsystem;
}

/** What a facade does for a member of its target. */
export type PlannedMember = OperationPlan | ForwardedProperty | OpenOperation;

/** An operation that the developer has to complete. */
export interface OpenOperation {
  readonly kind: "open";
  readonly why: string;
}

/** The steps of an operation. */
export interface FoundSteps {
  readonly steps: readonly StepMember[];
  /** Parameters that several members could give, and which ones. */
  readonly unclear?: ReadonlyMap<TypedParameter, string>;
}

/** Orders the steps of an operation by what they need of each other, and finds their arguments and what undoes them. */
export function planOperation(
  flow: DataFlow,
  operation: Operation,
  { steps, unclear = new Map() }: FoundSteps,
): OperationPlan | OpenOperation {
  const late = steps.find(({ member }) => flow.isAsync(member));
  if (late && !operation.isAsync)
    return open(`${labelOf(late)} returns a promise, and ${operation.name} is synchronous`);
  const inputs = inputsOf(flow, operation);
  const called = steps.map((step) => {
    const others = steps.filter((other) => other !== step).flatMap((other) => flow.stepValues(other));
    const { args, holes } = argumentsFor(flow, step, [...inputs, ...others]);
    return { step, args, holes: holes.map(({ parameter, why }) => unclear.get(parameter) ?? why) };
  });
  const ordered: typeof called = [];
  // What returns nothing can seldom be undone, so it waits for what may fail.
  const isLate = ({ step }: (typeof called)[number]) => flow.stepValues(step).length === 0;
  for (let waiting = called; waiting.length > 0; ) {
    const placed = new Set(ordered.map(({ step }) => step));
    const ready = waiting.filter(({ args }) => args.flatMap(stepsIn).every((step) => placed.has(step)));
    const next = ready.find((step) => !isLate(step)) ?? ready[0];
    if (!next)
      return open(
        `${listed(
          waiting.map(({ step }) => labelOf(step)),
          "and",
        )} need each other's results`,
      );
    ordered.push(next);
    waiting = waiting.filter((step) => step !== next);
  }
  const result = resultFor(flow, operation, steps, inputs);
  return {
    kind: "plan",
    isAsync: operation.isAsync,
    steps: ordered.map(({ step, args }, at) => ({
      step,
      args,
      local: flow.nameOfResult(step),
      isAsync: flow.isAsync(step.member),
      undo: at < ordered.length - 1 ? undoFor(flow, operation, step, args) : undefined,
    })),
    returns: result.value,
    holes: [...ordered.flatMap(({ holes }) => holes), ...result.holes],
  };
}

export function inputsOf(flow: DataFlow, { parameters }: Operation): readonly FlowValue[] {
  return parameters.flatMap(({ parameter, code }) => flow.parameterValues(parameter, code));
}

/** Returns `ledger.book`. */
export function labelOf({ subsystem, member }: StepMember): string {
  return `${subsystem.name}.${member.name}`;
}

interface Arguments {
  readonly args: readonly FlowExpression[];
  /** Parameters that are left to the developer, with the reasons. */
  readonly holes: readonly { readonly parameter: TypedParameter; readonly why: string }[];
}

/** Finds the arguments of a step, for the first of its signatures that all have one. */
function argumentsFor(
  flow: DataFlow,
  step: StepMember,
  values: readonly FlowValue[],
  find: "fill" | "choose" = "fill",
): Arguments {
  const byArguments = signaturesOf(step.member).map(({ parameters }): Arguments => {
    const args: FlowExpression[] = [];
    const holes: Arguments["holes"][number][] = [];
    for (const parameter of parameters) {
      // Any number of arguments is up to the developer.
      if (parameter.isRest) break;
      const expression = flow[find](needOf(step, parameter), values);
      // What follows an optional argument that is left out is left out too.
      if (isNoValue(expression) && parameter.isOptional) break;
      args.push(isNoValue(expression) ? { kind: "hole" } : expression);
      if (isNoValue(expression)) holes.push({ parameter, why: reasonOf(step, parameter, expression) });
    }
    return { args, holes };
  });
  const [best = { args: [], holes: [] }] = byArguments;
  return byArguments.find(({ holes }) => holes.length === 0) ?? best;
}

function needOf({ subsystem, member }: StepMember, { name, type }: TypedParameter): Need {
  return { name, type, context: `${member.name} ${subsystem.name}` };
}

function reasonOf(step: StepMember, { name }: TypedParameter, { kind, values }: NoValue): string {
  const parameter = `\`${name}\` of ${labelOf(step)}`;
  if (kind === "several") return `${parameter} may be ${listed(values.map(valueText), "or")}`;
  const similar = listed(values.slice(0, MOST_SHOWN).map(valueText), "and");
  return `there is no value for ${parameter}${similar === "" ? "" : `, but others of its type: ${similar}`}`;
}

/** Number of values of the right type that are listed. */
const MOST_SHOWN = 4;

export function valueText({ from, field }: FlowValue): string {
  const owner = from.kind === "parameter" ? from.code : `the result of ${labelOf(from.step)}`;
  if (field === undefined) return owner;
  return from.kind === "parameter" ? `${owner}.${field}` : `\`${field}\` of ${owner}`;
}

interface Result {
  readonly value: FlowExpression | undefined;
  readonly holes: readonly string[];
}

/** Returns what the operation returns: the result of a step, or an object of what steps return. */
function resultFor(
  flow: DataFlow,
  { name, result }: Operation,
  steps: readonly StepMember[],
  inputs: readonly FlowValue[],
): Result {
  const resultOf = (value: FlowExpression | undefined): Result => ({ value, holes: [] });
  const hole = (why: string): Result => ({ value: { kind: "hole" }, holes: [why] });
  if (flow.isNothing(result)) return resultOf(undefined);
  const values = steps.flatMap((step) => flow.stepValues(step));
  const need: Need = { name, type: result, context: name };
  const chosen = flow.choose(need, values);
  if (!isNoValue(chosen)) return resultOf(chosen);
  if (chosen.kind === "several")
    return hole(`the result may be ${listed(chosen.values.map(valueText), "or")}`);
  const fields = flow.fieldsOf(result);
  // What a step returned is newer than what the operation was called with.
  const object =
    fields &&
    (flow.fillFields(need, fields, values) ?? flow.fillFields(need, fields, [...values, ...inputs]));
  if (object) return resultOf(object);
  const complete = values.filter(({ type, field }) => field === undefined && flow.isAssignable(type, result));
  const [onlyValue] = complete;
  return onlyValue && complete.length === 1
    ? resultOf({ kind: "value", value: onlyValue })
    : hole("no step returns the result");
}

/** Finds the member that undoes a step, and its arguments: the step's result, or what the step was called with. */
function undoFor(
  flow: DataFlow,
  operation: Operation,
  step: StepMember,
  args: readonly FlowExpression[],
): OperationStep["undo"] {
  const inverses = step.subsystem.members
    .map((member) => ({ member, score: inverseSimilarity(step.member.name, member.name) }))
    .filter(({ member, score }) => score > 0 && (operation.isAsync || !flow.isAsync(member)))
    .sort((left, right) => right.score - left.score);
  const parameters = signaturesOf(step.member).find(
    (signature) => signature.parameters.length >= args.length,
  );
  const argumentValues = args.flatMap((arg, at) => namedValues(parameters?.parameters[at]?.name, arg));
  for (const { member } of inverses) {
    const ownValues = flow.stepValues(step);
    const available = [...ownValues, ...argumentValues];
    // An object is made only if there is no value of its type.
    for (const [values, find] of [
      [ownValues, "choose"],
      [available, "choose"],
      [available, "fill"],
    ] as const) {
      const { args: undoing, holes } = argumentsFor(flow, { ...step, member }, values, find);
      if (holes.length === 0) return { member, args: undoing };
    }
  }
  return undefined;
}

/** Returns the values that an argument consists of, with the names of its parameter and fields. */
function namedValues(name: string | undefined, expression: FlowExpression): readonly FlowValue[] {
  if (expression.kind === "object")
    return expression.fields.flatMap(({ key, value }) => namedValues(key, value));
  if (expression.kind === "hole" || name === undefined) return [];
  return [{ ...expression.value, names: [name, ...expression.value.names] }];
}

/** Returns the members that steps can call. */
export function possibleSteps(subsystems: readonly Subsystem[]): readonly StepMember[] {
  return subsystems.flatMap((subsystem) =>
    subsystem.members.flatMap((member): StepMember[] =>
      member.signatures.length > 0 && !member.isOptional ? [{ subsystem, member }] : [],
    ),
  );
}

/** Finds the steps of an operation by the member of the same name, or by what returns its result and what that needs. */
export function deriveSteps(
  flow: DataFlow,
  operation: Operation,
  subsystems: readonly Subsystem[],
  similarity: (left: string, right: string) => number,
): FoundSteps | OpenOperation {
  const stepMembers = possibleSteps(subsystems);
  const same = stepMembers.filter(({ member }) => similarity(operation.name, member.name) >= SAME_NAME);
  if (same.length > 1) return open(`it may be ${listed(same.map(labelOf), "or")}`);
  const search = new StepSearch(flow, inputsOf(flow, operation), stepMembers);
  const [onlyStep] = same;
  if (onlyStep) {
    search.add(onlyStep, 0);
    return search;
  }
  if (flow.isNothing(operation.result))
    return open("it returns nothing, and no subsystem has a member of its name");
  const need: Need = { name: operation.name, type: operation.result, context: operation.name };
  const unmet = search.find(need, 0);
  if (!unmet) return search;
  const part = unmet.need === need ? "its result" : `\`${unmet.need.name}\` of its result`;
  return unmet.values.length > 0
    ? open(`${part} may be ${listed(unmet.values.map(valueText), "or")}`)
    : open(`no subsystem returns ${part}`);
}

const SAME_NAME = 0.98;
/** Number of results that depend on each other. */
const LONGEST_CHAIN = 5;

/** A value that no step gives, and those that it may be, if there are several. */
interface Unmet {
  readonly need: Need;
  readonly values: readonly FlowValue[];
}

/** Finds members whose results are needed, and those whose results these need. */
class StepSearch implements FoundSteps {
  readonly steps: StepMember[] = [];
  readonly unclear = new Map<TypedParameter, string>();
  readonly #flow: DataFlow;
  readonly #inputs: readonly FlowValue[];
  readonly #all: readonly StepMember[];

  constructor(flow: DataFlow, inputs: readonly FlowValue[], steps: readonly StepMember[]) {
    this.#flow = flow;
    this.#inputs = inputs;
    this.#all = steps;
  }

  /** Adds the steps of a need. Returns why it cannot be met. */
  find(need: Need, depth: number): Unmet | undefined {
    const stepResults = this.steps.flatMap((step) => this.#flow.stepValues(step));
    const isResult = depth === 0;
    const expression = this.#flow.choose(need, isResult ? stepResults : [...this.#inputs, ...stepResults]);
    if (!isNoValue(expression)) return undefined;
    if (expression.kind === "several") return { need, values: expression.values };
    const others = this.#all.filter((step) => !this.steps.includes(step));
    const object = this.#flow.choose(
      need,
      others.flatMap((step) => this.#flow.stepValues(step)),
    );
    if (!isNoValue(object)) {
      for (const step of stepsIn(object)) this.add(step, depth);
      return undefined;
    }
    if (object.kind === "several") return { need, values: object.values };
    const fields = this.#flow.fieldsOf(need.type);
    if (fields === undefined || depth >= LONGEST_CHAIN) return { need, values: [] };
    for (const { name, type, isOptional } of fields) {
      const unmet = this.find({ name, type, context: need.name }, depth + 1);
      if (unmet && !isOptional) return unmet;
    }
    return undefined;
  }

  /** Adds a step, and those that give its arguments. Arguments that no step gives are left to the developer. */
  add(step: StepMember, depth: number): void {
    if (this.steps.includes(step)) return;
    this.steps.push(step);
    const [signature] = signaturesOf(step.member);
    for (const parameter of signature?.parameters ?? []) {
      if (parameter.isOptional || depth >= LONGEST_CHAIN) continue;
      const unmet = this.find(needOf(step, parameter), depth + 1);
      if (unmet && unmet.values.length > 0)
        this.unclear.set(parameter, reasonOf(step, parameter, { kind: "several", values: unmet.values }));
    }
  }
}

/** Returns the steps whose results an expression uses. */
export function stepsIn(expression: FlowExpression): readonly StepMember[] {
  if (expression.kind === "hole") return [];
  if (expression.kind === "object") return expression.fields.flatMap(({ value }) => stepsIn(value));
  const { from } = expression.value;
  return from.kind === "step" ? [from.step] : [];
}

function open(why: string): OpenOperation {
  return { kind: "open", why };
}

/** Returns `a, b or c`. */
function listed(items: readonly string[], word: "and" | "or"): string {
  const shown = [...new Set(items)];
  return shown.length < 2 ? shown.join("") : `${shown.slice(0, -1).join(", ")} ${word} ${shown.at(-1)}`;
}
