import type { Binding } from "../compiler/references.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { writtenName } from "./naming.ts";
import type { TextEdit } from "./text-edits.ts";

/** The import statements in the place of one. */
export class ImportLines {
  readonly #text: string;
  readonly #site: ImportSite;
  readonly #statement: { readonly start: number; readonly end: number };
  readonly #handed: {
    readonly from: string;
    readonly name: string;
    readonly local: string;
    readonly isType: boolean;
  }[] = [];
  readonly #kept: Binding[] = [];
  readonly #touched = new Set<string>();

  constructor(text: string, site: ImportSite, statement: { readonly start: number; readonly end: number }) {
    this.#text = text;
    this.#site = site;
    this.#statement = statement;
  }

  keep(binding: Binding): void {
    this.#kept.push(binding);
  }

  hand(from: string, name: string, local: string, isType: boolean): void {
    this.#handed.push({ from, name, local, isType });
  }

  /** The module is to be imported for what that does, if for nothing else. */
  touch(from: string, isTypeOnly: boolean): void {
    if (!isTypeOnly) this.#touched.add(from);
  }

  /** What becomes of the statement; `isLast` where it alone makes the file a module, which it has to stay. */
  edit(isLast: boolean): TextEdit {
    const { start, end } = this.#statement;
    const quote = this.#text.charAt(this.#site.offset);
    const closing = this.#text.charAt(end - 1) === ";" ? ";" : "";
    const comments = this.#text.slice(start, this.#site.offset).match(/\/\*[\s\S]*?\*\/|\/\/[^\n]*/g) ?? [];
    const names = [...new Set(this.#handed.map(({ from }) => from))];
    const lines = names.flatMap((from) => this.#linesFrom(from, quote, closing));
    const values = this.#handed.some(({ isType }) => !isType);
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

  #linesFrom(from: string, quote: string, closing: string): string[] {
    const all = this.#handed.filter((each) => each.from === from);
    const source = `from ${quote}${from}${quote}${closing}`;
    const line = (isType: boolean): string[] => {
      const own = all.filter((each) => each.isType === isType);
      if (own.length === 0) return [];
      const word = isType ? "import type" : "import";
      const whole = own.find(({ name }) => name === "*");
      const standard = own.find(({ name }) => name === "default");
      const named = own.filter(({ name }) => name !== "*" && name !== "default");
      const list = named.map(({ name, local }) =>
        name === local ? name : `${writtenName(name)} as ${local}`,
      );
      const parts = [
        ...(standard ? [standard.local] : []),
        ...(list.length > 0 ? [`{ ${list.join(", ")} }`] : []),
      ];
      return [
        ...(whole
          ? [
              `${word} ${standard && list.length === 0 ? `${standard.local}, ` : ""}* as ${whole.local} ${source}`,
            ]
          : []),
        ...(parts.length > 0 && !(whole && standard && list.length === 0)
          ? [`${word} ${parts.join(", ")} ${source}`]
          : []),
      ];
    };
    return [...line(false), ...line(true)];
  }

  #keptLine(quote: string, closing: string): string {
    const standard = this.#kept.find((each) => each.export === "default");
    const whole = this.#kept.find((each) => each.export === "*");
    const named = this.#kept
      .filter((each) => each.export !== "default" && each.export !== "*")
      .map(({ export: name, local, isTypeOnly }) => {
        const words = name === local ? name : `${writtenName(name)} as ${local}`;
        return isTypeOnly ? `type ${words}` : words;
      });
    const parts = [
      ...(standard ? [standard.local] : []),
      ...(whole ? [`* as ${whole.local}`] : []),
      ...(named.length > 0 ? [`{ ${named.join(", ")} }`] : []),
    ];
    const close = this.#text.indexOf(quote, this.#site.offset + 1);
    return `import ${parts.join(", ")} from ${this.#text.slice(this.#site.offset, close + 1)}${closing}`;
  }
}
