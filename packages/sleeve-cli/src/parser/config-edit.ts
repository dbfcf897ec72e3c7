import type { Node } from "oxc-parser";
import { stringLiteral } from "../written-text.ts";
import { exportedObject } from "./literal-config.ts";
import { parse } from "./parse.ts";

/**
 * An entry of a config setting: `crane` under `borders` with the source of its value, or an item of a list.
 */
export interface ConfigEntry {
  readonly setting: string;
  readonly key: string;
  /** `undefined` for an item of a list. */
  readonly value: string | undefined;
}

/**
 * Returns the text of a config with entries added and everything else unchanged; `undefined` if it does not
 * export an object literal. Existing entries are kept.
 */
export function withEntries(path: string, text: string, entries: readonly ConfigEntry[]): string | undefined {
  return entries.reduce<string | undefined>(
    (edited, entry) => (edited === undefined ? undefined : withEntry(path, edited, entry)),
    text,
  );
}

function withEntry(path: string, text: string, { setting, key, value }: ConfigEntry): string | undefined {
  const config = exportedObject(parse(path, text).program.body);
  if (!config) return undefined;
  const { indent, end } = layoutOf(text);
  const entry = (depth: number) =>
    value === undefined
      ? stringLiteral(key)
      : `${/^[A-Za-z_$][\w$]*$/.test(key) ? key : stringLiteral(key)}: ${value.replaceAll("\n", `${end}${indent.repeat(depth)}`)}`;
  const property = propertyOf(config, setting);
  if (!property) {
    const [open, close] = value === undefined ? ["[", "]"] : ["{", "}"];
    const lines = [
      `${indent}${setting}: ${open}`,
      `${indent.repeat(2)}${entry(2)},`,
      `${indent}${close},`,
    ].join(end);
    return inserted(text, config, lines, "", end);
  }
  const { value: given } = property;
  if (given.type !== (value === undefined ? "ArrayExpression" : "ObjectExpression")) return undefined;
  if (value === undefined ? holdsItem(given, key) : propertyOf(given, key)) return text;
  return inserted(text, given, `${indent.repeat(2)}${entry(2)},`, indent, end);
}

/** Adds a line before the closing bracket of an object literal. */
function inserted(text: string, object: Node, line: string, closing: string, end: string): string {
  const { properties, elements } = object as Node & {
    readonly properties?: readonly Node[];
    readonly elements?: readonly Node[];
  };
  const last = (properties ?? elements ?? []).at(-1);
  const at = last ? last.end : object.start + 1;
  const rest = text.slice(at, object.end - 1);
  const comma = last && !/^\s*(?:\/\*[\s\S]*?\*\/\s*)*,/.test(rest) ? "," : "";
  const tail = rest.replace(/\s*$/, "");
  return `${text.slice(0, at)}${comma}${tail}${end}${line}${end}${closing}${text.slice(object.end - 1)}`;
}

function holdsItem(list: Node, item: string): boolean {
  return (
    list.type === "ArrayExpression" &&
    list.elements.some((element) => element?.type === "Literal" && element.value === item)
  );
}

function layoutOf(text: string): { readonly indent: string; readonly end: string } {
  const [, indent = "  "] = /\n([ \t]+)\S/.exec(text) ?? [];
  return { indent, end: text.includes("\r\n") ? "\r\n" : "\n" };
}

function propertyOf(object: Node, name: string): { readonly value: Node } | undefined {
  if (object.type !== "ObjectExpression") return undefined;
  for (const property of object.properties) {
    if (property.type !== "Property") continue;
    const { key } = property;
    const literal = key.type === "Literal" ? String(key.value) : undefined;
    const text = key.type === "Identifier" ? key.name : literal;
    if (text === name) return property;
  }
  return undefined;
}
