import type { Code } from "../../emit/code.ts";
import type { Declaration, InterfaceDeclaration, Member } from "../../emit/module.ts";
import { LAYERS, type LayerName } from "../layers.ts";
import type { MethodForm, PropertyForm } from "../target/signature-forms.ts";
import type { WrapTarget } from "../target/target.ts";
import { type CallCode, type CallSite, returning, then } from "./call-code.ts";
import { listSite, methodSite } from "./call-site.ts";
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
import { accessTo, forwardingCode } from "./forwarder.ts";
import type { LayerCode } from "./layers/layer-code.ts";
import { through } from "./layers/through.ts";

/** A layer with the members that it applies to. */
export interface PlannedLayer {
  readonly name: LayerName;
  readonly code: LayerCode;
  readonly appliesTo: (member: string) => boolean;
}

export interface DecoratorPlan {
  /** The layers, the outermost first. */
  readonly layers: readonly PlannedLayer[];
  /** Whether the subject is created when it is first used. */
  readonly isLazy: boolean;
}

/** Returns the name of the interface of what the layers use. */
export function layersName(className: string): string {
  return `${className}Layers`;
}

/**
 * Returns a class that implements a target by calling a subject through layers. Only the members that a layer applies to contain
 * its code.
 */
export function decoratorOf(
  target: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
  { layers, isLazy }: DecoratorPlan,
): readonly Declaration[] {
  const { isImplementable } = target;
  const layersOf = (member: ChosenMember) => layers.filter(({ appliesTo }) => appliesTo(member.name));
  const usesFunctions = members.some((member) => isFunctionProperty(member) && layersOf(member).length > 0);
  const decorator = classOf(target, className, {
    doc: summaryOf(target.name, layers, isLazy),
    fields: fieldsOf(target, { layers, isLazy }, usesFunctions),
    members: [
      constructorOf(target, className, { layers, isLazy }),
      ...(isLazy ? [lazySubject(target.type)] : []),
      ...classMembers(members, (member) => {
        const applied = layersOf(member);
        return applied.length === 0
          ? forwardingCode(member, isImplementable)
          : layeredCode(member, applied, isImplementable);
      }),
    ],
  });
  return layers.length === 0 ? [decorator] : [optionsOf(className, layers, members), decorator];
}

function summaryOf(name: string, layers: readonly PlannedLayer[], isLazy: boolean): string {
  const parts = [
    ...(isLazy ? [" that is created when it is first used"] : []),
    ...(layers.length === 0 ? [] : [` through ${layers.map((layer) => layer.name).join(", ")}`]),
  ];
  return `${withArticle("A", name)}${parts.join(",")}.`;
}

function fieldsOf(
  { type }: WrapTarget,
  { layers, isLazy }: DecoratorPlan,
  usesFunctions: boolean,
): readonly string[] {
  return [
    ...(isLazy
      ? [`readonly #create: () => ${type}`, `#created: ${type} | undefined`]
      : [`readonly #subject: ${type}`]),
    ...layers.map(({ code }) => `readonly #${code.field}: ${code.fieldType}`),
    ...(usesFunctions ? ["readonly #functions = new OwnFunctions()"] : []),
  ];
}

function constructorOf({ type }: WrapTarget, className: string, { layers, isLazy }: DecoratorPlan): Member {
  const [subject, subjectType] = isLazy ? ["create", `() => ${type}`] : ["subject", type];
  const standard = layers.every(({ code }) => code.isOptional) ? " = {}" : "";
  const options = layers.length === 0 ? "" : `, layers: ${layersName(className)}${standard}`;
  const fields = layers.map(({ name, code }) => `this.#${code.field} = ${code.create(`layers.${name}`)};`);
  return {
    code: bodied(`constructor(${subject}: ${subjectType}${options})`, [
      `this.#${subject} = ${subject};`,
      ...fields,
    ]),
  };
}

function lazySubject(type: string): Member {
  return {
    code: bodied(`get #subject(): ${type}`, ["this.#created ??= this.#create();", "return this.#created;"]),
  };
}

/** Returns the interface of what the layers use. */
function optionsOf(
  className: string,
  layers: readonly PlannedLayer[],
  members: readonly ChosenMember[],
): InterfaceDeclaration {
  return {
    kind: "interface",
    name: layersName(className),
    doc: "What the layers use, outermost first.",
    members: layers.map(({ name, code, appliesTo }) => ({
      doc: LAYERS[name],
      code: [
        `readonly ${name}${code.isOptional ? "?" : ""}: `,
        code.option(members.filter((member) => appliesTo(member.name))),
      ],
    })),
  };
}

/** Whether a member is a property that holds a function, or a method that is read as one. */
function isFunctionProperty({ form }: ChosenMember): boolean {
  return form.kind === "property" && form.called !== undefined;
}

function layeredCode(member: ChosenMember, layers: readonly PlannedLayer[], isImplementable: boolean): Code {
  const { form } = member;
  return form.kind === "method"
    ? methodCode(member, form, layers, isImplementable)
    : propertyCode(member, form, layers);
}

function methodCode(
  member: ChosenMember,
  { signatures }: MethodForm,
  layers: readonly PlannedLayer[],
  isImplementable: boolean,
): string {
  const { key } = member;
  const head = methodHead(signatures, key);
  const [first, ...others] = signatures;
  if (!first) return bodied(head, []);
  const settlements = new Set(signatures.map(({ settlement }) => settlement));
  const settlement = settlements.size === 1 ? first.settlement : "any";
  const mayBeTarget = signatures.some((signature) => signature.mayBeTarget);
  if (others.length > 0) {
    const site = listSite(
      member,
      first.names,
      settlement,
      signatures.map(({ names }) => names),
    );
    const call = subjectCall(`Reflect.apply(${accessTo(key)}, this.#subject, args)`, site, layers, {
      mayBeTarget,
      wrapper: "this",
      assertion: "",
    });
    return bodied(head, through(layers, call, site)(returning));
  }
  const site = methodSite(member, first, settlement);
  const call = subjectCall(`${accessTo(key)}(${argumentList(first)})`, site, layers, {
    mayBeTarget,
    wrapper: first.result === "this" || isImplementable ? "this" : "(this as never)",
    assertion: first.result === "this" ? " as this" : "",
  });
  const sink = first.isAssertion ? then((value) => [`${value};`]) : returning;
  return bodied(head, through(layers, call, site)(sink));
}

function propertyCode(member: ChosenMember, form: PropertyForm, layers: readonly PlannedLayer[]): string {
  const { key } = member;
  const { called, assertion } = form;
  const access = accessTo(key);
  const checks = called ? [] : layers.flatMap(({ code }) => code.read?.(member) ?? []);
  const value = called
    ? functionValue(member, called, layers)
    : [`return ${assertion === undefined ? access : `${access} as ${assertion}`};`];
  const writes = layers
    .filter(({ name }) => name !== "guard" || !called)
    .flatMap(({ code }) => code.write?.(member, "value") ?? []);
  return accessors(key, form, [...checks, ...value], [...writes, `${access} = value;`]);
}

/** Returns the function that a property holds, through the layers. */
function functionValue(
  member: ChosenMember,
  { settlement, names }: NonNullable<PropertyForm["called"]>,
  layers: readonly PlannedLayer[],
): readonly string[] {
  const site = listSite(member, names, settlement, [names]);
  const isBound = member.form.kind === "property" && member.form.isFunction;
  const call = subjectCall(
    isBound ? "Reflect.apply(method, this.#subject, args)" : "method(...args)",
    site,
    layers,
    { mayBeTarget: false, wrapper: "this", assertion: "" },
  );
  return [
    `return this.#functions.of(${site.member}, ${accessTo(member.key)}, (method) => (...args) => {`,
    ...through(layers, call, site)(returning),
    "}) as never;",
  ];
}

/** How a result is returned that may be the subject. */
interface Returned {
  readonly mayBeTarget: boolean;
  /** The wrapper, as an expression of the type of the result. */
  readonly wrapper: string;
  /** What follows another result. */
  readonly assertion: string;
}

/** The call of the subject, within the layers that run it. */
function subjectCall(
  call: string,
  site: CallSite,
  layers: readonly PlannedLayer[],
  { mayBeTarget, wrapper, assertion }: Returned,
): CallCode {
  const run = layers.reduceRight((inner, { code }) => code.watch?.(site).run?.(inner) ?? inner, call);
  if (!mayBeTarget) return (sink) => sink(run);
  const returned = site.fresh("returned");
  const otherwise = assertion === "" ? returned : `(${returned}${assertion})`;
  return (sink) => [
    `const ${returned} = ${run};`,
    ...sink(`${returned} === this.#subject ? ${wrapper} : ${otherwise}`),
  ];
}
