import type { ScenarioType } from "./scenario-types.ts";

/** Why code cannot stand alone. */
export class NotSelfContained extends Error {
  override readonly name = "NotSelfContained";
}

/** The object that a scenario uses, and the file that exports it. */
export interface TargetObject {
  readonly adapterPath: string;
  readonly object: string;
}

/** What a piece of code needs. */
export interface Needs {
  /** Tokens of constants of the scenario. */
  readonly constants: Set<string>;
  readonly types: Set<ScenarioType>;
  usesTarget: boolean;
  hasAwait: boolean;
}

export function noNeeds(): Needs {
  return { constants: new Set(), types: new Set(), usesTarget: false, hasAwait: false };
}

/** A line of a scenario: a constant, a use without a result to compare, or a value to compare. */
export interface ScenarioLine {
  readonly kind: "constant" | "use" | "compared";
  /** Token of a constant. */
  readonly name?: string;
  /** Type of a constant. */
  readonly type?: string | undefined;
  readonly code: string;
  /** Code of the use, before its result is reduced to the fields of the target. */
  readonly use?: string;
  /** What that code needs. */
  readonly useNeeds?: Needs;
  /** Name of the function of the caller that contains it. */
  readonly origin?: string | undefined;
  /** The caller. */
  readonly file?: string;
  readonly needs: Needs;
  /** Members of the target, and of what it returns, that the line calls or reads. */
  readonly members: readonly string[];
  /** Whether the project catches what it throws. */
  readonly isHandled: boolean;
}

/** Returns code for the error that lines throw. */
export function thrownCode(lines: readonly ScenarioLine[]): { readonly code: string; readonly needs: Needs } {
  const last = lines.at(-1) as ScenarioLine;
  const use = last.use ?? last.code;
  const constants: ScenarioLine[] = [];
  let needs = last.useNeeds ?? last.needs;
  for (const line of lines.toReversed())
    if (line.kind === "constant" && needs.constants.has(line.name ?? "")) {
      constants.unshift(line);
      needs = withNeeds(needs, line.needs);
    }
  for (const { name } of constants) needs.constants.delete(name ?? "");
  const body =
    constants.length === 0
      ? use
      : `{\n${constants.map(({ name, code }) => `const ${name} = ${code};\n`).join("")}return ${use};\n}`;
  const code = needs.hasAwait ? `await thrownBy(async () => ${body})` : `thrownBy(() => ${body})`;
  return { code, needs };
}

function withNeeds(left: Needs, right: Needs): Needs {
  return {
    constants: new Set([...left.constants, ...right.constants]),
    types: new Set([...left.types, ...right.types]),
    usesTarget: left.usesTarget || right.usesTarget,
    hasAwait: left.hasAwait || right.hasAwait,
  };
}

/**
 * Returns a token for the name of a constant in code. Names are chosen when a scenario is printed, because only then its
 * constants are known. The characters are for private use, and occur in no source.
 */
export function constantToken(name: string, id: number): string {
  return `\uE000${name}\uE001${id}\uE002`;
}

const TOKEN = /\uE000([^\uE001]*)\uE001-?\d+\uE002/g;

/** Gives the constants of one scenario their names. */
export class ConstantNames {
  readonly #names = new Map<string, string>();
  readonly #taken: Set<string>;

  /** @param taken names that constants must not have */
  constructor(taken: readonly string[]) {
    this.#taken = new Set(taken);
  }

  /** Returns code with names in place of tokens. */
  in(code: string): string {
    return code.replaceAll(TOKEN, (token, name: string) => this.#nameOf(token, name));
  }

  #nameOf(token: string, name: string): string {
    const chosen = this.#names.get(token);
    if (chosen !== undefined) return chosen;
    let free = name;
    for (let count = 2; this.#taken.has(free); count++) free = `${name}${count}`;
    this.#taken.add(free);
    this.#names.set(token, free);
    return free;
  }
}

/** Token of the list of what callbacks print. */
export const PRINTED: string = constantToken("printed", -1);
