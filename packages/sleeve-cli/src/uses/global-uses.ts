import type { Program } from "../compiler/program.ts";
import {
  isIdentifier,
  isNewExpression,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
} from "../compiler/typescript.ts";
import type { UseKind } from "../documents/survey-document.ts";
import { kindOf } from "./uses.ts";

/** One use of a runtime global. */
export interface GlobalUse {
  /** `fetch`, `Date.now`, `new Date`. */
  readonly member: string;
  readonly group: GlobalGroup;
  readonly kind: UseKind;
  readonly offset: number;
}

/** The kinds of things that runtime globals access. */
export type GlobalGroup = "network" | "storage" | "clock" | "randomness" | "environment";

/** By name: the group of its uses, or of those members that belong to one. */
const GLOBALS: Readonly<Record<string, GlobalGroup | Readonly<Record<string, GlobalGroup>>>> = {
  fetch: "network",
  XMLHttpRequest: "network",
  WebSocket: "network",
  EventSource: "network",
  localStorage: "storage",
  sessionStorage: "storage",
  indexedDB: "storage",
  caches: "storage",
  setTimeout: "clock",
  setInterval: "clock",
  setImmediate: "clock",
  Date: { now: "clock" },
  performance: { now: "clock", timeOrigin: "clock" },
  Math: { random: "randomness" },
  crypto: { randomUUID: "randomness", getRandomValues: "randomness" },
  navigator: "environment",
  process: {
    env: "environment",
    argv: "environment",
    cwd: "environment",
    platform: "environment",
    hrtime: "clock",
    uptime: "clock",
  },
};

const MENTION = new RegExp(`\\b(?:${Object.keys(GLOBALS).join("|")}|globalThis|window)\\b`);

/** Whether a text may use a global, without the compiler. */
export function mayUseGlobals(text: string): boolean {
  return MENTION.test(text);
}

/** Returns the uses of globals in a file. Local names that shadow a global do not count. */
export function globalUsesIn(
  program: Program,
  path: string,
  isOwn: (path: string) => boolean,
): readonly GlobalUse[] {
  const source = program.sourceFile(path);
  const checker = program.checkerFor(path);
  if (!source || !checker) return [];
  const uses: { readonly node: Node; readonly use: GlobalUse }[] = [];
  const visit = (node: Node): void => {
    if (isIdentifier(node) && Object.hasOwn(GLOBALS, node.text)) {
      const use = useAt(node, node.text, node.getStart(source));
      if (use) uses.push({ node, use });
    }
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  const symbols = uses.length > 0 ? checker.getSymbolAtLocation(uses.map(({ node }) => node)) : [];
  return uses.flatMap(({ use }, index) => {
    const symbol = symbols[index];
    const isOurs = symbol?.declarations.some((declaration) => isOwn(declaration.path)) === true;
    return isOurs ? [] : [use];
  });
}

function useAt(node: Node, name: string, offset: number): GlobalUse | undefined {
  if (!isGlobalName(node)) return undefined;
  const { parent } = node;
  const groups = GLOBALS[name];
  if (typeof groups === "string") return { member: name, group: groups, kind: kindOf(node), offset };
  if (name === "Date" && isNewExpression(parent) && (parent.arguments ?? []).length === 0)
    return { member: "new Date", group: "clock", kind: "new", offset };
  if (!isPropertyAccessExpression(parent) || parent.expression !== node) return undefined;
  const member = parent.name.text;
  const group = groups && Object.hasOwn(groups, member) ? groups[member] : undefined;
  return group && { member: `${name}.${member}`, group, kind: kindOf(parent.name), offset };
}

/** Whether a name may be that of a global, rather than a member, a key, a declaration or a type. */
function isGlobalName(node: Node): boolean {
  const { parent } = node;
  if (parent.kind === SyntaxKind.TypeReference || parent.kind === SyntaxKind.TypeQuery) return false;
  if (!("name" in parent) || parent.name !== node) return true;
  if (!isPropertyAccessExpression(parent)) return false;
  const { expression } = parent;
  return isIdentifier(expression) && /^(globalThis|window|self)$/.test(expression.text);
}
