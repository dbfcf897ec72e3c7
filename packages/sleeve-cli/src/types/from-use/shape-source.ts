import { asTypeName, camelCase, propertyKey } from "../writing/type-text.ts";
import { asElement, unionText } from "./plain-type.ts";
import { type ArgumentShape, isBlank, type UsedCall, type UseShape } from "./use-shape.ts";

/** One export of a module without types. */
export interface ShownExport {
  readonly name: string;
  readonly shape: UseShape;
  /** How much of it is declared. An export whose uses contradict each other has no types. Default: `"shape"`. */
  readonly as?: "shape" | "any" | "nothing" | undefined;
  /** Whether the project uses it as a type. */
  readonly isType: boolean;
}

/** Returns declarations for a module, from what the project's uses show of its exports. */
export function declarationsOf(exports: readonly ShownExport[], isCommonJs: boolean): string {
  return new ShapeSource(exports.map(({ name }) => name)).module(
    exports.filter((shown) => shown.as !== "nothing"),
    isCommonJs,
  );
}

class ShapeSource {
  /** Declarations of types that need a name: classes, and interfaces whose methods return themselves. */
  readonly #named: string[] = [];
  readonly #taken: Set<string>;

  constructor(taken: Iterable<string>) {
    this.#taken = new Set(taken);
  }

  module(exports: readonly ShownExport[], isCommonJs: boolean): string {
    const standard = exports.find(({ name }) => name === "default");
    const others = exports.filter(({ name }) => name !== "default");
    const lines = (texts: readonly string[]) => `${[...this.#named, ...texts].join("\n")}\n`;
    if (!standard) return lines([...others.map((shown) => this.#export(shown)), "export {};"]);
    if (!isCommonJs) {
      const texts = others.map((shown) => this.#export(shown));
      return lines([...texts, `declare const whole: ${this.#exported(standard)};`, "export default whole;"]);
    }
    // Named imports of a CommonJS module are properties of what it exports.
    const properties = others.map((shown) => `readonly ${propertyKey(shown.name)}: ${this.#exported(shown)}`);
    const exportedType = this.#exported(standard);
    const type =
      properties.length === 0 ? exportedType : `${asElement(exportedType)} & { ${properties.join("; ")} }`;
    return lines([`declare const whole: ${type};`, "export = whole;"]);
  }

  #exported({ name, shape, as }: ShownExport): string {
    return as === "any" ? "any" : this.#type(shape, name);
  }

  #export({ name, shape, isType, as }: ShownExport): string {
    if (as === "any")
      return `export declare const ${name}: any;${isType ? `\nexport type ${name} = any;` : ""}`;
    if (shape.constructs.length > 0 && shape.calls.length === 0) return `export ${this.#class(name, shape)}`;
    if (isOnlyCalled(shape))
      return `export declare function ${name}${this.#signature(shape.calls, ": ", name)};`;
    return `export declare const ${name}: ${this.#type(shape, name)};`;
  }

  #class(name: string, shape: UseShape): string {
    const instance = instanceOf(shape.constructs);
    const members = [...instance.members].map(([key, member]) => `${this.#member(key, member)};`);
    const statics = [...shape.members].map(([key, member]) => `static ${this.#member(key, member)};`);
    const parameters = this.#parameters(shape.constructs);
    return `declare class ${name} { constructor(${parameters}); ${[...statics, ...members].join(" ")} }`;
  }

  /** Returns the type of a value; `unknown` where nothing is known. */
  #type(shape: UseShape, name: string): string {
    if (isBlank(shape)) return "unknown";
    const nullable = (text: string) => (shape.isNullable ? `${asElement(text)} | undefined` : text);
    const [expected] = shape.expected;
    if (expected !== undefined) return expected;
    if (shape.awaited) return nullable(`Promise<${this.#type(shape.awaited, name)}>`);
    if (shape.element) return nullable(`readonly ${asElement(this.#type(shape.element, name))}[]`);
    const { calls, constructs, members } = shape;
    if (isOnlyCalled(shape)) return nullable(this.#signature(calls, " => ", name));
    if (constructs.length > 0 && calls.length === 0) {
      const type = this.#free(name);
      this.#named.push(this.#class(type, shape));
      return nullable(`typeof ${type}`);
    }
    const parts = [
      ...(calls.length > 0 ? [this.#signature(calls, ": ", name)] : []),
      ...[...members].map(([key, member]) => this.#member(key, member)),
    ];
    const literal = `{ ${parts.join("; ")} }`;
    if (![...members.values()].some(({ returnsOwner }) => returnsOwner)) return nullable(literal);
    const type = this.#free(name);
    this.#named.push(`interface ${type} ${literal}`);
    return nullable(type);
  }

  #member(name: string, shape: UseShape): string {
    const key = propertyKey(name);
    if (!isOnlyCalled(shape) || shape.isNullable) return `${key}: ${this.#type(shape, name)}`;
    if (shape.returnsOwner) return `${key}(${this.#parameters(shape.calls)}): this`;
    return `${key}${this.#signature(shape.calls, ": ", name)}`;
  }

  #signature(calls: readonly UsedCall[], arrow: ": " | " => ", name: string): string {
    const [firstCall] = calls;
    const result = firstCall ? this.#type(firstCall.result, `${name}Result`) : "unknown";
    return `(${this.#parameters(calls)})${arrow}${result}`;
  }

  #parameters(calls: readonly UsedCall[]): string {
    const most = Math.max(0, ...calls.map(({ args }) => args.length));
    const least = Math.min(...calls.map(({ args }) => args.length));
    const taken = new Set<string>();
    return Array.from({ length: most }, (_, index) => {
      const argumentsAt = calls.flatMap(({ args }) => args[index] ?? []);
      const [name, ...others] = new Set(argumentsAt.map((argument) => argument.name));
      const isFree = name !== undefined && others.length === 0 && !taken.has(name) && isPlainName(name);
      const parameter = isFree ? name : `value${index + 1}`;
      taken.add(parameter);
      return `${parameter}${index < least ? "" : "?"}: ${this.#arguments(argumentsAt.map(({ shape }) => shape))}`;
    }).join(", ");
  }

  /** Returns the type that takes all the values given for one parameter. */
  #arguments(argumentShapes: readonly ArgumentShape[]): string {
    const literals = argumentShapes.filter((argument) => argument.kind === "literal");
    const others = argumentShapes.filter((argument) => argument.kind !== "literal");
    const texts = others.map((argument) => this.#argument(argument));
    return unionText(literals.length > 0 ? [...texts, this.#literals(literals)] : texts);
  }

  /** Object literals are one bag of options: what some calls leave out is optional. */
  #literals(literals: readonly (ArgumentShape & { kind: "literal" })[]): string {
    const names = [...new Set(literals.flatMap(({ properties }) => [...properties.keys()]))];
    if (names.length === 0) return "{}";
    const members = names.map((name) => {
      const values = literals.flatMap(({ properties }) => properties.get(name) ?? []);
      return `${propertyKey(name)}${values.length < literals.length ? "?" : ""}: ${this.#arguments(values)}`;
    });
    return `{ ${members.join("; ")} }`;
  }

  #argument(argument: ArgumentShape): string {
    if (argument.kind === "type") return argument.text;
    if (argument.kind === "literal") return this.#literals([argument]);
    const parameters = argument.parameters.map(({ name, shape }) => `${name}: ${this.#type(shape, name)}`);
    return `(${parameters.join(", ")}) => ${argument.result}`;
  }

  #free(name: string): string {
    const type = asTypeName(camelCase(name));
    let free = type;
    for (let index = 2; this.#taken.has(free); index++) free = `${type}${index}`;
    this.#taken.add(free);
    return free;
  }
}

/** Returns the one shape of what all constructor calls return; their uses are merged. */
function instanceOf(constructs: readonly UsedCall[]): UseShape {
  const [firstConstruct] = constructs;
  if (!firstConstruct) throw new Error("A class has at least one constructor call.");
  return firstConstruct.result;
}

function isOnlyCalled({ calls, constructs, members }: UseShape): boolean {
  return calls.length > 0 && constructs.length === 0 && members.size === 0;
}

function isPlainName(name: string): boolean {
  return /^[a-z]\w*$/i.test(name);
}
