import { type Expression, type Node, type ParseResult, Visitor } from "oxc-parser";
import type { ImportSite } from "./module-record.ts";

/** What a name or an expression of a script is: an export of a module that it requires, or all of them. */
interface Required {
  readonly site: ImportSite;
  /** `*` for the module itself. */
  readonly name: string;
}

/**
 * Adds what a CommonJS script re-exports to the sites that require it: `exports.lift = require("crane").lift`,
 * `module.exports = require("crane")`, and the same through a constant at the top of the file.
 */
export function withCommonJsExports(
  { program }: ParseResult,
  text: string,
  sites: readonly ImportSite[],
): readonly ImportSite[] {
  const required = new Map(
    sites.filter(({ forms }) => forms.includes("require")).map((site) => [site.offset, site] as const),
  );
  if (required.size === 0 || !/\bexports\b/.test(text)) return sites;
  const names = new Map<string, Required>();
  const reexports = new Map<ImportSite, { readonly name: string; readonly as: string }[]>();
  const requiredBy = (node: Node | null | undefined): Required | undefined => {
    if (!node) return undefined;
    if (node.type === "Identifier") return names.get(node.name);
    if (node.type === "CallExpression") {
      const [argument] = node.arguments;
      const site = argument && required.get(argument.start);
      return site && { site, name: "*" };
    }
    if (node.type !== "MemberExpression") return undefined;
    const object = requiredBy(node.object);
    const name = memberName(node);
    return object?.name === "*" && name !== undefined ? { site: object.site, name } : undefined;
  };
  const add = (value: Node | null | undefined, as: string) => {
    const outside = requiredBy(value);
    if (!outside) return;
    const list = reexports.get(outside.site) ?? [];
    reexports.set(outside.site, [...list, { name: outside.name, as }]);
  };
  for (const statement of program.body)
    if (statement.type === "VariableDeclaration")
      for (const { id, init } of statement.declarations) bind(id, requiredBy(init), names);
  new Visitor({
    AssignmentExpression: ({ left, right }) => {
      if (isModuleExports(left)) addAll(right, add);
      else if (left.type === "MemberExpression" && isExports(left.object))
        add(right, memberName(left) ?? "*");
    },
    CallExpression: ({ callee, arguments: [target, source] }) => {
      // `Object.assign(exports, require("crane"))`
      const isAssign = callee.type === "MemberExpression" && memberName(callee) === "assign";
      if (isAssign && target && isExports(target)) add(source, "*");
    },
  }).visit(program);
  return sites.map((site) => {
    const added = reexports.get(site);
    return added ? { ...site, reexports: [...site.reexports, ...added] } : site;
  });
}

/** `module.exports = { lift: crane.lift }`, or `module.exports = crane`. */
function addAll(value: Expression, add: (value: Node | null | undefined, as: string) => void): void {
  if (value.type !== "ObjectExpression") {
    add(value, "*");
    return;
  }
  for (const property of value.properties) {
    if (property.type === "SpreadElement") add(property.argument, "*");
    else if (property.key.type === "Identifier") add(property.value, property.key.name);
    else if (property.key.type === "Literal") add(property.value, String(property.key.value));
  }
}

/** `crane`, or `{ lift }`, to which a module or one of its exports is assigned. */
function bind(pattern: Node, required: Required | undefined, names: Map<string, Required>): void {
  if (!required) return;
  if (pattern.type === "Identifier") names.set(pattern.name, required);
  if (pattern.type !== "ObjectPattern" || required.name !== "*") return;
  for (const property of pattern.properties) {
    if (property.type !== "Property" || property.key.type !== "Identifier") continue;
    bind(property.value, { site: required.site, name: property.key.name }, names);
  }
}

/** `exports`, or `module.exports`. */
function isExports(node: Node): boolean {
  return (node.type === "Identifier" && node.name === "exports") || isModuleExports(node);
}

function isModuleExports(node: Node): boolean {
  if (node.type !== "MemberExpression" || memberName(node) !== "exports") return false;
  return node.object.type === "Identifier" && node.object.name === "module";
}

function memberName(node: Node): string | undefined {
  if (node.type !== "MemberExpression") return undefined;
  const { property } = node;
  if (!node.computed && property.type === "Identifier") return property.name;
  return property.type === "Literal" && typeof property.value === "string" ? property.value : undefined;
}
