/** A parameter of a signature, as source. */
export interface Parameter {
  readonly name: string;
  readonly isRest: boolean;
  readonly isOptional: boolean;
  /** Its type, as source. */
  readonly type: string;
}

/** A signature, taken apart. */
export interface ParsedSignature {
  /** The signature with names that a class body accepts. */
  readonly text: string;
  /** Parameters without `this`. */
  readonly parameters: readonly Parameter[];
  readonly result: string;
}

/** Words that declarations allow as parameter names, and that the code of a class does not. */
const NOT_IN_CLASSES =
  /^(arguments|await|eval|implements|interface|let|package|private|protected|public|static|yield|break|case|catch|class|const|continue|debugger|default|delete|do|else|enum|export|extends|false|finally|for|function|if|import|in|instanceof|new|null|return|super|switch|throw|true|try|typeof|var|void|while|with)$/;

/**
 * Takes apart a signature that the type writer has written: `<T>(left: T, ...rest: T[]): T`.
 */
export function parametersIn(signature: string): ParsedSignature {
  const open = openingBracket(signature);
  const parts: { readonly start: number; readonly end: number }[] = [];
  let start = open + 1;
  let close = signature.length;
  scan(signature, open, (at, depth, token) => {
    if (depth === 1 && token === ",") {
      parts.push({ start, end: at });
      start = at + 1;
    } else if (depth === 0) {
      close = at;
      return "stop";
    }
    return undefined;
  });
  if (signature.slice(start, close).trim() !== "") parts.push({ start, end: close });
  let result = signature.slice(close + 1).replace(/^:\s*/, "");
  const all = parts.map(({ start: from, end }) => parameterOf(signature.slice(from, end).trim()));
  const parameters = all.map((parameter) => {
    if (!NOT_IN_CLASSES.test(parameter.name)) return parameter;
    const name = `${parameter.name}_`;
    // A type predicate names its parameter.
    result = result.replace(new RegExp(`^(asserts )?${parameter.name}\\b(?= is |$)`), `$1${name}`);
    return { ...parameter, name };
  });
  const list = parameters.map(
    ({ name, isRest, isOptional, type }) => `${isRest ? "..." : ""}${name}${isOptional ? "?" : ""}: ${type}`,
  );
  return {
    text: `${signature.slice(0, open)}(${list.join(", ")}): ${result}`,
    parameters: parameters.filter(({ name }) => name !== "this"),
    result,
  };
}

function parameterOf(text: string): Parameter {
  const [whole = "", rest, name = "", optional] =
    /^(\.\.\.)?([\p{ID_Continue}$]+)(\?)?:\s*/u.exec(text) ?? [];
  return {
    name,
    isRest: rest !== undefined,
    isOptional: optional !== undefined,
    type: text.slice(whole.length),
  };
}

/** The bracket of the parameters comes after the type parameters. */
function openingBracket(signature: string): number {
  if (!signature.startsWith("<")) return signature.indexOf("(");
  let found = 0;
  scan(signature, 0, (at, depth) => {
    if (depth > 0) return undefined;
    found = signature.indexOf("(", at);
    return "stop";
  });
  return found;
}

/** Calls `visit` for each bracket and comma outside strings, with the depth after it. */
function scan(
  text: string,
  from: number,
  visit: (at: number, depth: number, token: string) => "stop" | undefined,
): void {
  let depth = 0;
  for (const found of text
    .slice(from)
    .matchAll(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|`(?:[^`\\]|\\.)*`|=>|[[({<\])}>,]/g)) {
    const [token] = found;
    if (/^[[({<]$/.test(token)) depth++;
    else if (/^[\])}>]$/.test(token)) depth--;
    else if (token !== ",") continue;
    if (visit(from + found.index, depth, token) === "stop") return;
  }
}

/** Whether values of a written type have a text that is equal for equal values. */
export function isPlainType(type: string): boolean {
  return type.split(" | ").every((part) => PLAIN_TYPE.test(part));
}

const PLAIN_TYPE =
  /^(?:string|number|bigint|boolean|undefined|null|Date|true|false|-?\d[\w.]*|"(?:[^"\\]|\\.)*")$/;
