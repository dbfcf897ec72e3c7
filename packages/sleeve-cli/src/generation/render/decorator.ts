import { hasSecretName, REDACTED } from "sleeve/generated";
import { stringLiteral } from "../../written-text.ts";
import { LAYERS, type LayerName } from "../layers.ts";
import type { MethodForm, PropertyForm } from "../members.ts";
import type { Parameter } from "../parameters.ts";
import { PART_NAMES, sourceOfParts } from "../parts.ts";
import type { WrapTarget } from "../target.ts";
import { type CallCode, type CallSite, indented, returning, type Settlement, then } from "./call-code.ts";
import { type ChosenMember, classLines, type MemberLine, withArticle } from "./class.ts";
import { accessTo, forwardingLines } from "./forwarder.ts";
import type { CompiledLayer } from "./layers/compiled-layer.ts";

/** A layer with the members that it applies to. */
export interface PlannedLayer {
  readonly name: LayerName;
  readonly code: CompiledLayer;
  readonly appliesTo: (member: string) => boolean;
}

export interface DecoratorPlan {
  /** The layers, the outermost first. */
  readonly layers: readonly PlannedLayer[];
  /** Whether the subject is created when it is first used. */
  readonly isLazy: boolean;
}

/** Source of a class with layers, and what it uses. */
export interface DecoratorSource {
  readonly lines: readonly MemberLine[];
  /** What the file imports from `sleeve/generated`. */
  readonly imports: readonly string[];
  readonly layers: readonly LayerName[];
}

/** Names that are not available for types in a class with layers. */
export function namesOfLayers(className: string): readonly string[] {
  return [`${className}Layers`, "CallLog", "CallLogOptions", "argumentsKey", "plainKey", ...PART_NAMES];
}

/**
 * Writes a class that implements a target by calling a subject through layers. Only the members that a layer applies to contain
 * its code.
 */
export function decoratorLines(
  target: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
  { layers, isLazy }: DecoratorPlan,
): DecoratorSource {
  const { type, name, parameters, isImplementable } = target;
  const optionsName = `${className}Layers`;
  const usesFunctions = members.some((member) => isFunctionProperty(member) && layersOf(member).length > 0);
  function layersOf(member: ChosenMember): readonly PlannedLayer[] {
    return layers.filter(({ appliesTo }) => appliesTo(member.name));
  }
  const fields = [
    ...(isLazy
      ? [`readonly #create: () => ${type};`, `#created: ${type} | undefined;`]
      : [`readonly #subject: ${type};`]),
    ...layers.map(({ code }) => `readonly #${code.field}: ${code.fieldType};`),
    ...(usesFunctions ? ["readonly #functions = new OwnFunctions();"] : []),
  ];
  const subject = isLazy ? "create" : "subject";
  const isOptional = layers.every(({ code }) => code.isOptional);
  const options = layers.length === 0 ? "" : `, layers: ${optionsName}${isOptional ? " = {}" : ""}`;
  const head = [
    ...optionsLines(optionsName, layers, members),
    ...[
      `/** ${summaryOf(name, layers, isLazy)} */`,
      `export class ${className}${parameters} ${isImplementable ? `implements ${type} ` : ""}{`,
      ...fields.map((field) => `  ${field}`),
      "",
      `  constructor(${subject}: ${isLazy ? `() => ${type}` : type}${options}) {`,
      `    this.#${subject} = ${subject};`,
      ...layers.map(
        (layer) => `    this.#${layer.code.field} = ${layer.code.create(`layers.${layer.name}`)};`,
      ),
      "  }",
      ...(isLazy ? lazyLines(type) : []),
    ].map((text) => ({ text })),
  ];
  const body = classLines([], members, (member) => {
    const own = layersOf(member);
    return own.length === 0
      ? forwardingLines(member, isImplementable)
      : layeredLines(member, own, isImplementable);
  });
  const used = wordsUsed(layers, head, body);
  const imports = layers
    .flatMap(({ code }) => code.imports)
    .filter((imported) => used.has(imported.replace("type ", "")));
  const taken = new Set(imports.map((imported) => imported.replace("type ", "")));
  const parts = sourceOfParts(PART_NAMES.filter((part) => used.has(part) && !taken.has(part)));
  const after = parts.length === 0 ? [] : [...parts, ""];
  return {
    lines: [...head, ...body.slice(0, -1), ...after.map((line) => ({ text: line })), EMPTY],
    imports,
    layers: layers.map((layer) => layer.name),
  };
}

/** Returns the names of parts that a class uses. A member may have the name of a part, and a comment may mention it. */
function wordsUsed(
  layers: readonly PlannedLayer[],
  head: readonly MemberLine[],
  body: readonly MemberLine[],
): ReadonlySet<string> {
  const own = layers.flatMap(({ code }) => [code.fieldType, code.create("layers"), ...code.parts]);
  const options = head.flatMap(({ text, member }) =>
    text.includes("*/") || member !== undefined ? [] : [text],
  );
  const calls = body.flatMap(({ text }) => [...text.matchAll(HELPER_CALL)].map(([call]) => call));
  const functions = body.some(({ text }) => text.includes("this.#functions.of(")) ? ["OwnFunctions"] : [];
  const words = [...own, ...options, ...calls, ...functions].join("\n").matchAll(/\b[A-Za-z]\w+\b/g);
  return new Set([...words].map(([word]) => word));
}

/** A call of a function that is no member: at the start of a statement, or as a value. */
const HELPER_CALL = /(?<=^ {4,}|= |\?\? )(?:observe|observePromise|requireAllowed|notAllowed)\(/g;

const EMPTY: MemberLine = { text: "" };

function summaryOf(name: string, layers: readonly PlannedLayer[], isLazy: boolean): string {
  const created = isLazy ? "that is created when it is first used" : "";
  const through = layers.length === 0 ? "" : `through ${layers.map((layer) => layer.name).join(", ")}`;
  return `${withArticle("A", name)}${[created, through].flatMap((part) => (part ? ` ${part}` : [])).join(",")}.`;
}

function lazyLines(type: string): readonly string[] {
  return [
    "",
    `  get #subject(): ${type} {`,
    "    this.#created ??= this.#create();",
    "    return this.#created;",
    "  }",
  ];
}

/** Writes the interface of what the layers use. */
function optionsLines(
  optionsName: string,
  layers: readonly PlannedLayer[],
  members: readonly ChosenMember[],
): readonly MemberLine[] {
  if (layers.length === 0) return [];
  return [
    { text: "/** What the layers use, the outermost first. */" },
    { text: `export interface ${optionsName} {` },
    ...layers.flatMap(({ name, code, appliesTo }): readonly MemberLine[] => {
      const [first, ...rest] = code.option(members.filter((member) => appliesTo(member.name)));
      const lines = [
        { text: `readonly ${name}${code.isOptional ? "?" : ""}: ${first?.text ?? ""}` },
        ...rest,
      ];
      return [
        { text: `  /** ${LAYERS[name]} */` },
        ...lines.map((line, index) => ({
          ...line,
          text: `  ${line.text}${index === lines.length - 1 ? ";" : ""}`,
        })),
      ];
    }),
    { text: "}" },
    EMPTY,
  ];
}

/** Whether a member is a property that holds a function, or a method that is read as one. */
function isFunctionProperty({ form }: ChosenMember): boolean {
  return form.kind === "property" && form.called !== undefined;
}

function layeredLines(
  member: ChosenMember,
  layers: readonly PlannedLayer[],
  isImplementable: boolean,
): readonly string[] {
  const { form } = member;
  return form.kind === "method"
    ? methodLines(member, form, layers, isImplementable)
    : propertyLines(member, form, layers);
}

function methodLines(
  member: ChosenMember,
  { signatures }: MethodForm,
  layers: readonly PlannedLayer[],
  isImplementable: boolean,
): readonly string[] {
  const [first, ...others] = signatures;
  if (!first) return [];
  const { key } = member;
  const settlements = new Set(signatures.map(({ settlement }) => settlement));
  const settlement = settlements.size === 1 ? first.settlement : "any";
  const mayBeTarget = signatures.some((signature) => signature.mayBeTarget);
  if (others.length > 0) {
    const site = siteOfList(
      member,
      first.names,
      settlement,
      signatures.map(({ names }) => names),
    );
    const code = subjectCall(`Reflect.apply(${accessTo(key)}, this.#subject, args)`, site, layers, {
      mayBeTarget,
      own: "this",
      other: "",
    });
    return [
      ...signatures.map(({ text }) => `  ${key}${text};`),
      `  ${key}(...args: unknown[]): unknown {`,
      ...indented(through(layers, code, site)(returning), 2),
      "  }",
    ];
  }
  const site = siteOf(member, first.parameters, first.names, settlement);
  const args = first.parameters.map(({ name, isRest }) => `${isRest ? "..." : ""}${name}`).join(", ");
  const isAssertion = first.result.startsWith("asserts ");
  const code = subjectCall(`${accessTo(key)}(${args})`, site, layers, {
    mayBeTarget,
    own: first.result === "this" || isImplementable ? "this" : "(this as never)",
    other: first.result === "this" ? " as this" : "",
  });
  const finish = isAssertion ? then((value) => [`${value};`]) : returning;
  return [`  ${key}${first.text} {`, ...indented(through(layers, code, site)(finish), 2), "  }"];
}

function propertyLines(
  member: ChosenMember,
  form: PropertyForm,
  layers: readonly PlannedLayer[],
): readonly string[] {
  const { key } = member;
  const access = accessTo(key);
  const { type, written, called } = form;
  const reads = called ? [] : layers.flatMap(({ code }) => code.read?.(member) ?? []);
  const value = called ? functionValue(member, called, layers) : [`return ${withAssertion(form, access)};`];
  const writes = layers
    .filter(({ name: layer }) => layer !== "guard" || !called)
    .flatMap(({ code }) => code.write?.(member, "value") ?? []);
  const read = [`  get ${key}(): ${type} {`, ...indented([...reads, ...value], 2), "  }"];
  if (written === undefined) return read;
  return [
    ...read,
    "",
    `  set ${key}(value: ${written}) {`,
    ...indented([...writes, `${access} = value;`], 2),
    "  }",
  ];
}

function withAssertion({ assertion }: PropertyForm, access: string): string {
  return assertion === undefined ? access : `${access} as ${assertion}`;
}

/** Returns the function that a property holds, through the layers. */
function functionValue(
  member: ChosenMember,
  { settlement, names }: { readonly settlement: Settlement; readonly names: readonly string[] },
  layers: readonly PlannedLayer[],
): readonly string[] {
  const site = siteOfList(member, names, settlement, [names]);
  const isBound = member.form.kind === "property" && member.form.isFunction;
  const call = isBound ? "Reflect.apply(method, this.#subject, args)" : "method(...args)";
  const code = subjectCall(call, site, layers, { mayBeTarget: false, own: "this", other: "" });
  return [
    `return this.#functions.of(${site.member}, ${accessTo(member.key)}, (method) => (...args) => {`,
    ...through(layers, code, site)(returning),
    "}) as never;",
  ];
}

/** The call of the subject, within the layers that run it. */
function subjectCall(
  call: string,
  site: CallSite,
  layers: readonly PlannedLayer[],
  returned: { readonly mayBeTarget: boolean; readonly own: string; readonly other: string },
): CallCode {
  const run = layers.reduceRight((inner, { code }) => code.watch?.(site).run?.(inner) ?? inner, call);
  if (!returned.mayBeTarget) return (sink) => sink(run);
  const own = site.fresh("returned");
  return (sink) => [
    `const ${own} = ${run};`,
    ...sink(
      `${own} === this.#subject ? ${returned.own} : ${returned.other ? `(${own}${returned.other})` : own}`,
    ),
  ];
}

/** Puts the code of layers around a call. Neighbouring layers that watch share one block. */
function through(layers: readonly PlannedLayer[], call: CallCode, site: CallSite): CallCode {
  let code = call;
  let watching: CompiledLayer[] = [];
  const watched = () => {
    if (watching.length > 0) code = watchedCode(watching, code, site);
    watching = [];
  };
  for (const { code: layer } of layers.toReversed()) {
    if (layer.watch) watching.unshift(layer);
    else {
      watched();
      code = layer.check ? checkedCode(layer, code, site) : (layer.around?.(code, site) ?? code);
    }
  }
  watched();
  return code;
}

function watchedCode(layers: readonly CompiledLayer[], inner: CallCode, site: CallSite): CallCode {
  const watchers = layers.flatMap((layer) => layer.watch?.(site) ?? []);
  const inwards = watchers.toReversed();
  const error = site.fresh("error");
  const observe = site.settlement === "promise" ? "observePromise" : "observe";
  const ends = (result: string): readonly string[] => {
    if (site.settlement === "value") return inwards.flatMap(({ returned }) => returned(result));
    const outcome = site.fresh("outcome");
    const [only = "", ...others] = inwards.flatMap(({ ended }) => ended(outcome));
    return others.length === 0
      ? [`${observe}(${result}, (${outcome}) => ${only.slice(0, -1)});`]
      : [`${observe}(${result}, (${outcome}) => {`, only, ...others, "});"];
  };
  return (sink) => [
    ...watchers.flatMap(({ begin }) => begin),
    "try {",
    ...inner(
      then((value) => {
        const isName = /^\w+$/.test(value);
        const result = isName ? value : site.fresh("result");
        return [...(isName ? [] : [`const ${result} = ${value};`]), ...ends(result), ...sink(result)];
      }),
    ),
    `} catch (${error}) {`,
    ...inwards.flatMap(({ threw }) => threw(error)),
    `throw ${error};`,
    "}",
  ];
}

/** A check that fails throws, or makes the promise reject that the member returns. */
function checkedCode({ check }: CompiledLayer, inner: CallCode, site: CallSite): CallCode {
  const checked = check?.(site);
  if (!checked) return inner;
  if (site.settlement !== "promise") return (sink) => [...checked.statements, ...inner(sink)];
  const refused = site.fresh(checked.name);
  const declared = `const ${refused} = ${checked.error};`;
  return (sink) => {
    if (sink.returns)
      return [declared, `if (${refused} !== undefined) return Promise.reject(${refused});`, ...inner(sink)];
    return [
      declared,
      `if (${refused} !== undefined) {`,
      ...sink(`Promise.reject(${refused})`),
      "}",
      ...inner(sink),
    ];
  };
}

function siteOf(
  { name }: ChosenMember,
  parameters: readonly Parameter[],
  names: readonly string[],
  settlement: Settlement,
): CallSite {
  const [only] = parameters;
  // All parameters are named as those of the member.
  const isList = parameters.length === 1 && only?.isRest === true && names.length > 0 && only.name === "args";
  const args = isList
    ? names.map((declared, index) => ({ value: `${only.name}[${index}]`, name: declared }))
    : parameters.map((parameter, index) => ({
        value: parameter.isRest ? `${parameter.name}[0]` : parameter.name,
        name: names[index] ?? parameter.name,
      }));
  const items = parameters.map(({ name: word, isRest }) => `${isRest ? "..." : ""}${word}`);
  const logged = items.map((item, index) => (hasSecretName(names[index] ?? item) ? SECRET : item));
  return {
    member: stringLiteral(name),
    label: name,
    args,
    list: `[${items.join(", ")}]`,
    loggedList: isList ? listWithoutSecrets(only.name, [names]) : `[${logged.join(", ")}]`,
    settlement,
    fresh: freshNames(parameters.map((parameter) => parameter.name)),
  };
}

/** A call whose arguments are a list `args`. */
function siteOfList(
  { name }: ChosenMember,
  names: readonly string[],
  settlement: Settlement,
  signatures: readonly (readonly string[])[],
): CallSite {
  return {
    member: stringLiteral(name),
    label: name,
    args: names.map((declared, index) => ({ value: `args[${index}]`, name: declared })),
    list: "[...args]",
    loggedList: listWithoutSecrets("args", signatures),
    settlement,
    fresh: freshNames(["args", "method"]),
  };
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

/** Returns each name once, and each that is taken with a number. */
function freshNames(taken: readonly string[]): (name: string) => string {
  const all = new Set(taken);
  const given = new Map<string, string>();
  return (name) => {
    const known = given.get(name);
    if (known !== undefined) return known;
    let free = name;
    for (let count = 2; all.has(free); count++) free = `${name}${count}`;
    all.add(free);
    given.set(name, free);
    return free;
  };
}
