import type { ImportSite } from "../parser/module-record.ts";
import { printedName } from "../types/writing/type-text.ts";
import type { Binding, ImportStatement } from "../uses/imported-names.ts";
import { removal, type TextEdit } from "./text-edits.ts";

/** The import statements that replace one import. */
export class ImportLines {
  readonly #text: string;
  readonly #site: ImportSite;
  readonly #statement: ImportStatement;
  readonly #adapterNames: {
    readonly from: string;
    readonly name: string;
    readonly local: string;
    readonly isType: boolean;
  }[] = [];
  readonly #adapter: string;
  readonly #kept: Binding[] = [];
  readonly #touched = new Set<string>();

  constructor(text: string, site: ImportSite, statement: ImportStatement, adapter: string) {
    this.#adapter = adapter;
    this.#text = text;
    this.#site = site;
    this.#statement = statement;
  }

  keep(binding: Binding): void {
    this.#kept.push(binding);
  }

  importFromAdapter(from: string, name: string, local: string, isType: boolean): void {
    this.#adapterNames.push({ from, name, local, isType });
  }

  /** The module must be imported, at least for its side effects. */
  touch(from: string, isTypeOnly: boolean): void {
    if (!isTypeOnly) this.#touched.add(from);
  }

  /** Returns the new statements. `isLast` if only this one makes the file a module, which it must remain. */
  edit(isLast: boolean): TextEdit {
    if (this.#statement.kind === "require") return this.#requireEdit();
    const { start, end } = this.#statement;
    const quote = this.#text.charAt(this.#site.offset);
    const closing = this.#text.charAt(end - 1) === ";" ? ";" : "";
    const comments = this.#text.slice(start, this.#site.offset).match(/\/\*[\s\S]*?\*\/|\/\/[^\n]*/g) ?? [];
    const names = [...new Set(this.#adapterNames.map(({ from }) => from))];
    const lines = names.flatMap((from) => this.#linesFrom(from, quote, closing));
    const values = this.#adapterNames.some(({ isType }) => !isType);
    if (!values && this.#kept.length === 0)
      for (const from of this.#touched) lines.push(`import ${quote}${from}${quote}${closing}`);
    if (this.#kept.length > 0) lines.push(this.#keptLine(quote, closing));
    if (isLast && lines.length === 0) lines.push(`export {}${closing}`);
    const eol = this.#text.includes("\r\n") ? "\r\n" : "\n";
    const text = [...comments, ...lines].join(eol);
    if (text !== "") return { start, end, text };
    const [lineBreak = ""] = /^\r?\n/.exec(this.#text.slice(end)) ?? [];
    return { start, end: end + lineBreak.length, text };
  }

  /** Returns the new declarations of a declaration with `require`. */
  #requireEdit(): TextEdit {
    const { start, end } = this.#statement;
    const quote = this.#text.charAt(this.#site.offset);
    const declarations = [...new Set(this.#adapterNames.map(({ from }) => from))].map((from) =>
      requireText(
        this.#adapterNames.filter((item) => item.from === from),
        `require(${quote}${from}${quote})`,
      ),
    );
    if (this.#kept.length > 0) {
      const close = this.#text.indexOf(quote, this.#site.offset + 1);
      const names = this.#kept.map((binding) => ({ name: binding.export, local: binding.local }));
      declarations.push(requireText(names, `require(${this.#text.slice(this.#site.offset, close + 1)})`));
    }
    if (declarations.length > 0) return { start, end, text: declarations.join(", ") };
    const { statement } = this.#statement;
    const call = `require(${quote}${this.#adapter}${quote})`;
    if (!statement) return { start, end, text: `{} = ${call}` };
    if (this.#touched.size > 0) return { ...statement, text: `${call};` };
    return removal(this.#text, statement);
  }

  #linesFrom(from: string, quote: string, closing: string): string[] {
    const fromModule = this.#adapterNames.filter((name) => name.from === from);
    const source = `from ${quote}${from}${quote}${closing}`;
    const line = (isType: boolean): string[] => {
      const ofKind = fromModule.filter((item) => item.isType === isType);
      if (ofKind.length === 0) return [];
      const word = isType ? "import type" : "import";
      const namespace = ofKind.find(({ name }) => name === "*");
      const standard = ofKind.find(({ name }) => name === "default");
      const named = ofKind.filter(({ name }) => name !== "*" && name !== "default");
      const list = named.map(({ name, local }) =>
        name === local ? name : `${printedName(name)} as ${local}`,
      );
      const parts = [
        ...(standard ? [standard.local] : []),
        ...(list.length > 0 ? [`{ ${list.join(", ")} }`] : []),
      ];
      return [
        ...(namespace
          ? [
              `${word} ${standard && list.length === 0 ? `${standard.local}, ` : ""}* as ${namespace.local} ${source}`,
            ]
          : []),
        ...(parts.length > 0 && !(namespace && standard && list.length === 0)
          ? [`${word} ${parts.join(", ")} ${source}`]
          : []),
      ];
    };
    return [...line(false), ...line(true)];
  }

  #keptLine(quote: string, closing: string): string {
    const standard = this.#kept.find((binding) => binding.export === "default");
    const namespace = this.#kept.find((binding) => binding.export === "*");
    const named = this.#kept
      .filter((binding) => binding.export !== "default" && binding.export !== "*")
      .map(({ export: name, local, isTypeOnly }) => {
        const words = name === local ? name : `${printedName(name)} as ${local}`;
        return isTypeOnly ? `type ${words}` : words;
      });
    const parts = [
      ...(standard ? [standard.local] : []),
      ...(namespace ? [`* as ${namespace.local}`] : []),
      ...(named.length > 0 ? [`{ ${named.join(", ")} }`] : []),
    ];
    const close = this.#text.indexOf(quote, this.#site.offset + 1);
    return `import ${parts.join(", ")} from ${this.#text.slice(this.#site.offset, close + 1)}${closing}`;
  }
}

/** `{ lift, turn: rotate } = require("crane")`, or `crane = require("crane")`. */
function requireText(
  names: readonly { readonly name: string; readonly local: string }[],
  call: string,
): string {
  const module = names.find(({ name }) => name === "*");
  if (module) return `${module.local} = ${call}`;
  const list = names.map(({ name, local }) => (name === local ? name : `${printedName(name)}: ${local}`));
  return `{ ${list.join(", ")} } = ${call}`;
}
