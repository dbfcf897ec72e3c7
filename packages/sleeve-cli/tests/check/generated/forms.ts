import type { Fault } from "./faults.ts";
import {
  fitsArrows,
  fitsLiteral,
  inClass,
  inLiteral,
  type MemberSpec,
  type MethodSpec,
  withArrows,
} from "./members.ts";

/** A module, or several, that export a wrapper. */
export interface Program {
  /** Texts by file, relative to a folder of the wrapper's own. */
  readonly files: Readonly<Record<string, string>>;
  /** Where the wrapper is exported: `main.ts#wrapper`. */
  readonly wrapper: string;
}

/** A way to write and export a wrapper. */
export interface Form {
  readonly form: string;
  /** Findings that the form itself has. */
  readonly findings?: readonly string[];
  /** Whether `this` of its members is bound, or is another object. */
  readonly bindsThis?: true;
  /** Returns the program, or `undefined` if these members cannot be written like this. */
  readonly write: (members: readonly MemberSpec[], fault: Fault) => Program | undefined;
}

const LIBRARY = 'import { decorate, logging, override, proxy, stack } from "sleeve";\n';

function targetFile({ target, helpers = "" }: Fault): string {
  return `${helpers}\nexport interface Target { ${target} stop(): void }\n`;
}

/** A form in one module. `code` exports `wrapper`. */
function inOne(form: string, code: (text: string) => string, style: Style, more: Partial<Form> = {}): Form {
  return {
    form,
    ...more,
    write(members, fault) {
      const text = style(members);
      return text === undefined
        ? undefined
        : {
            files: { "main.ts": `${LIBRARY}${targetFile(fault)}${code(text)}\n` },
            wrapper: "main.ts#wrapper",
          };
    },
  };
}

/** Writes members as the body of a class or literal, if they fit. */
type Style = (members: readonly MemberSpec[]) => string | undefined;

const asClass: Style = inClass;
const asLiteral: Style = (members) => (fitsLiteral(members) ? inLiteral(members) : undefined);
const asArrows: Style = (members) => (fitsArrows(members) ? withArrows(members) : undefined);

/** Writes methods as functions, and the literal that has them by name. */
const asFunctions: Style = (members) => {
  if (!fitsArrows(members) || members.some(({ kind }) => kind !== "method")) return undefined;
  const functions = members.map((member) =>
    inLiteral([member]).replace(/^\s*(async )?/, (_, prefix = "") => `${prefix}function `),
  );
  return `${functions.join("\n")}\nconst made = { ${members.map(({ name }) => name).join(", ")} };`;
};

/** Writes methods in a class, and a literal that binds them. */
const asBound: Style = (members) => {
  if (members.some((member) => member.kind !== "method" || member.name.startsWith("["))) return undefined;
  const bound = members.map(({ name }) => `${name}: impl.${name}.bind(impl)`);
  return `class Impl {\n${inClass(members)}\n}\nconst impl = new Impl();\nconst made = { ${bound.join(", ")} };`;
};

/** Writes methods as fields that the constructor assigns. */
const asAssigned: Style = (members) => {
  if (!fitsArrows(members) || members.some(({ kind }) => kind !== "method")) return undefined;
  const fields = members.map((member) => {
    const { generics = "", parameters = "", result = "void" } = member as MethodSpec;
    return [
      `  ${member.name}: ${generics}(${parameters.replace(/ = [^,)]+/g, "?: number")}) => ${result};`,
      `    this.${withArrows([member]).trim().replace(":", " =")};`,
    ];
  });
  return `class Impl {\n${fields.map(([field]) => field).join("\n")}\n  constructor() {\n${fields.map(([, value]) => value).join("\n")}\n  }\n}`;
};

/** Writes methods as getters that return functions. */
const asGetters: Style = (members) => {
  if (!fitsArrows(members) || members.some(({ kind }) => kind !== "method")) return undefined;
  return members
    .map(
      (member) =>
        `  get ${member.name}() { return ${withArrows([member])
          .trim()
          .replace(/^[^:]*: /, "")}; }`,
    )
    .join(",\n");
};

/** Forms around a value that a name holds, however it was made. */
const NAMED: readonly (readonly [form: string, code: string, findings?: readonly string[]])[] = [
  ["a name", "export const wrapper = raw;"],
  ["an annotated name", "export const wrapper: Target = raw;"],
  ["a double assertion", "export const wrapper = raw as unknown as Target;", ["assertion null"]],
  ["an assertion of `any`", "export const wrapper: Target = raw as any;", ["assertion null"]],
  ["a suppressed error", "// @ts-ignore\nexport const wrapper: Target = raw;", ["assertion null"]],
  ["`satisfies` and parentheses", "export const wrapper = (raw satisfies object);"],
  ["a renamed export", "export { raw as wrapper };"],
  ["a factory", "export const wrapper = (): Target => raw;"],
  [
    "a function that returns a variable",
    "export function wrapper(): Target { const made: Target = raw; return made; }",
  ],
  ["an asynchronous factory", "export async function wrapper(): Promise<Target> { return raw; }"],
  ["a factory of a factory", "export const wrapper = () => (): Target => raw;"],
  ["a condition", "export const wrapper: Target = Math.random() < 2 ? raw : raw;"],
  ["a default value", "declare const given: undefined;\nexport const wrapper: Target = given ?? raw;"],
  ["`Object.freeze`", "export const wrapper: Target = Object.freeze(raw);"],
  ["a layered stack", "export const wrapper: Target = decorate(raw, logging({ logger: console }));"],
  ["a planned stack", "export const wrapper: Target = stack(logging({ logger: console }))(raw);"],
  ["an override of nothing", "export const wrapper: Target = override(raw, () => ({}));"],
  ["an ES proxy", "export const wrapper: Target = new Proxy(raw, {});"],
  [
    "a variable assigned later",
    "let held: Target | undefined;\nheld = raw;\nexport const wrapper: Target = held;",
  ],
  [
    "a property of an object",
    "const all: { readonly inner: Target } = { inner: raw };\nexport const wrapper = all.inner;",
  ],
  [
    "a destructured object",
    "const { inner }: { inner: Target } = { inner: raw };\nexport const wrapper = inner;",
  ],
  ["a getter", "const all = { get inner(): Target { return raw; } };\nexport const wrapper = all.inner;"],
  ["a function called at once", "export const wrapper: Target = (() => { return raw; })();"],
  [
    "a helper that returns its argument",
    "function same<Value>(value: Value): Value { return value; }\nexport const wrapper: Target = same(raw);",
  ],
  ["an angle-bracket assertion", "export const wrapper = <Target>(<unknown>raw);", ["assertion null"]],
  ["a non-null assertion", "export const wrapper: Target = raw!;"],
  [
    "an element of an array",
    "const all: readonly Target[] = [raw];\nexport const wrapper = all[0] as Target;",
    [],
  ],
  ["a field", "class Holder { readonly inner: Target = raw; }\nexport const wrapper = new Holder().inner;"],
  ["a namespace", "namespace All { export const inner: Target = raw; }\nexport const wrapper = All.inner;"],
  [
    "a switch",
    "export function wrapper(kind = 1): Target { switch (kind) { case 1: return raw; default: return raw; } }",
  ],
  [
    "a closure",
    "function make(): Target { function inner(): Target { return raw; } return inner(); }\nexport const wrapper = make();",
  ],
  ["a cache", "let cached: Target | undefined;\nexport const wrapper = (): Target => (cached ??= raw);"],
  ["a resolved promise", "export const wrapper = (): Promise<Target> => Promise.resolve(raw);"],
  ["an awaited function", "export const wrapper: Target = await (async () => raw)();"],
  ["a prototype", "export const wrapper: Target = Object.setPrototypeOf({}, raw);"],
  [
    "a function without source",
    "declare function outer<Value>(value: Value): Value;\nexport const wrapper: Target = outer<Target>(raw);",
  ],
  ["a `try`", "export const wrapper = (): Target => { try { return raw; } finally { console.log(1); } };"],
];

const named = (what: string, declare: (text: string) => string, style: Style): readonly Form[] =>
  NAMED.map(([form, code, findings]) =>
    inOne(`${what}, by ${form}`, (text) => `${declare(text)}\n${code}`, style, findings ? { findings } : {}),
  );

/** A form in several modules; `main.ts` exports the wrapper. */
function inSeveral(
  form: string,
  modules: (text: string) => Readonly<Record<string, string>>,
  style: Style,
  wrapper = "main.ts#wrapper",
): Form {
  return {
    form,
    write(members, fault) {
      const text = style(members);
      if (text === undefined) return undefined;
      const names = [...exportedHelpers(fault).matchAll(/^export \w+ (\w+)/gm)].map(([, name]) => name);
      const given = `import { ${names.map((name) => (name === "Side" ? name : `type ${name}`)).join(", ")} } from "./target.ts";\n`;
      const files = Object.entries(modules(text)).map(([file, code]) => [file, `${given}${code}\n`] as const);
      return { files: { "target.ts": exportedHelpers(fault), ...Object.fromEntries(files) }, wrapper };
    },
  };
}

function exportedHelpers(fault: Fault): string {
  return targetFile(fault).replace(/^interface/gm, "export interface");
}

export const FORMS: readonly Form[] = [
  inOne("functions by name", (text) => `${text}\nexport const wrapper: Target = made;`, asFunctions),
  inOne("bound methods", (text) => `${text}\nexport const wrapper: Target = made;`, asBound, {
    bindsThis: true,
  }),
  inOne(
    "a constructor that assigns",
    (text) => `${text}\nexport const wrapper: Target = new Impl();`,
    asAssigned,
  ),
  inOne(
    "getters that return functions",
    (text) => `export const wrapper: Target = {\n${text}\n};`,
    asGetters,
  ),
  inOne("a class", (text) => `export class wrapper {\n${text}\n}`, asClass),
  inOne("a class that implements", (text) => `export class wrapper implements Target {\n${text}\n}`, asClass),
  inOne("a class expression", (text) => `export const wrapper = class {\n${text}\n};`, asClass),
  inOne(
    "a generic class",
    (text) =>
      `class Impl<Extra> { extra?: Extra;\n${text}\n}\nexport const wrapper: Target = new Impl<number>();`,
    asClass,
  ),
  inOne("a subclass", (text) => `class Base {\n${text}\n}\nexport class wrapper extends Base {}`, asClass),
  inOne(
    "an instance of a subclass",
    (text) =>
      `class Base {\n${text}\n}\nclass Sub extends Base { more = 1; }\nexport const wrapper: Target = new Sub();`,
    asClass,
  ),
  inOne(
    "an abstract base",
    (text) =>
      `abstract class Base {\n${text}\n abstract more(): void }\nexport class wrapper extends Base { more() { console.log(1); } }`,
    asClass,
  ),
  inOne(
    "a mixin",
    (text) =>
      `type Constructor = new (...given: any[]) => object;\nfunction Mixed<Base extends Constructor>(base: Base) { return class extends base {\n${text}\n}; }\nexport class wrapper extends Mixed(Object) {}`,
    asClass,
  ),
  inOne(
    "a static factory",
    (text) =>
      `class Impl { static create(): Target { return new Impl(); }\n${text}\n}\nexport const wrapper = Impl.create();`,
    asClass,
  ),
  inOne(
    "a static instance",
    (text) =>
      `class Impl { static readonly only: Target = new Impl();\n${text}\n}\nexport const wrapper = Impl.only;`,
    asClass,
  ),
  inOne("an annotated literal", (text) => `export const wrapper: Target = {\n${text}\n};`, asLiteral),
  inOne(
    "an annotated literal with arrow functions",
    (text) => `export const wrapper: Target = {\n${text}\n};`,
    asArrows,
  ),
  inOne("a literal", (text) => `export const wrapper = {\n${text}\n};`, asLiteral),
  inOne("a returned literal", (text) => `export const wrapper = (): Target => ({\n${text}\n});`, asLiteral),
  inOne(
    "a lazily made literal",
    (text) =>
      `export const wrapper: Target = proxy(() => { const made = {\n${text}\n}; return made as typeof made; });`,
    asLiteral,
  ),
  inOne(
    "a spread",
    (text) => `const part = {\n${text}\n};\nexport const wrapper: Target = { ...part };`,
    asLiteral,
  ),
  inOne(
    "`Object.assign`",
    (text) => `const part = {\n${text}\n};\nexport const wrapper: Target = Object.assign({}, part);`,
    asLiteral,
  ),
  inOne(
    "`Object.create`",
    (text) => `const part = {\n${text}\n};\nexport const wrapper: Target = Object.create(part);`,
    asLiteral,
  ),
  ...named("a literal", (text) => `const raw = {\n${text}\n};`, asLiteral),
  ...named("arrow functions", (text) => `const raw = {\n${text}\n};`, asArrows),
  ...named("an instance", (text) => `class Impl {\n${text}\n}\nconst raw = new Impl();`, asClass),
  inSeveral(
    "a barrel",
    (text) => ({
      "raw.ts": `export const raw = {\n${text}\n};`,
      "barrel.ts": 'export * from "./raw.ts";',
      "main.ts": 'import { raw } from "./barrel.ts";\nexport const wrapper: Target = raw;',
    }),
    asLiteral,
  ),
  inSeveral(
    "a re-export of another name",
    (text) => ({
      "raw.ts": `export class Impl {\n${text}\n}`,
      "main.ts": 'export { Impl as wrapper } from "./raw.ts";',
    }),
    asClass,
  ),
  inSeveral(
    "a default export",
    (text) => ({
      "main.ts": `const raw = {\n${text}\n};\nexport default raw as object as Target;`.replace(
        " as object as Target",
        "",
      ),
    }),
    asLiteral,
    "main.ts#default",
  ),
  inSeveral(
    "a namespace import",
    (text) => ({
      "raw.ts": `export const raw = {\n${text}\n};`,
      "main.ts": 'import * as all from "./raw.ts";\nexport const wrapper: Target = all.raw;',
    }),
    asLiteral,
  ),
  inSeveral(
    "an imported class",
    (text) => ({
      "raw.ts": `export default class {\n${text}\n}`,
      "main.ts": 'import Impl from "./raw.ts";\nexport const wrapper = (): Target => new Impl();',
    }),
    asClass,
  ),
];
