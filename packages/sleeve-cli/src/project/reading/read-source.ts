import { relative, sep } from "node:path";
import type { Problem } from "../../errors.ts";
import type { ImportSite } from "../../parser/module-record.ts";
import { Lines, placeText } from "../../place.ts";
import type { Components } from "../components/components.ts";
import type { SourceText } from "../source-text.ts";
import type { FileReading } from "./file-records.ts";

export function isSource(path: string): boolean {
  return path.startsWith("/") || /^[A-Za-z]:/.test(path) ? /\.[cm]?[jt]sx?$/.test(path) : false;
}

export interface Reading {
  readonly root: string;
  readonly elementsFrom: string | undefined;
  readonly problems: Problem[];
  readonly components: Components | undefined;
}

export function sourceOf(
  path: string,
  record: FileReading,
  { root, elementsFrom, problems, components }: Reading,
): SourceText | undefined {
  const component = components?.shown.get(path);
  const file = relative(root, component?.path ?? path)
    .split(sep)
    .join("/");
  if (!record) {
    problems.push({
      code: "UNREADABLE",
      message: `${file} cannot be read. Grant read permission on it and run again.`,
    });
    return undefined;
  }
  if (record === "too deep") {
    problems.push({
      code: "UNREADABLE",
      isNote: true,
      message: `${file} is nested too deeply to be read, and is left out. Divide its deepest expressions and run again.`,
    });
    return undefined;
  }
  const { text, sites: written, isModule, unresolved, firstElement, syntaxErrors } = record;
  const lines = new Lines(text);
  const sites =
    firstElement === undefined || elementsFrom === undefined
      ? written
      : [...written, elementSite(elementsFrom, firstElement)];
  const [error] = syntaxErrors;
  const problem = error && syntaxProblem(placeText({ file, ...lines.at(error.offset) }), error.message);
  return { path, file, text, lines, sites, isModule, unresolved, component, problem };
}

function syntaxProblem(place: string, message: string): Problem {
  const reason = message.replace(/\.$/, "");
  return { code: "SYNTAX_ERROR", message: `${place} does not parse: ${reason}. Correct it and run again.` };
}

/** Returns the implicit import for a file's elements, at the first of them. */
function elementSite(specifier: string, offset: number): ImportSite {
  return { specifier, offset, forms: ["jsx"], names: ["*"], locals: [], reexports: [] };
}
