import { isNote, type Problem } from "../errors.ts";
import { printableJson } from "../printable.ts";

/** Formats any result as JSON: equal results give equal bytes. */
export function jsonText(result: unknown): string {
  return `${printableJson(JSON.stringify(result, null, 2))}\n`;
}

/** Formats the document of a command, with its problems and its notes in two lists. */
export function documentText(document: object, all: readonly Problem[]): string {
  const listed = (problems: readonly Problem[]) => problems.map(({ code, message }) => ({ code, message }));
  return jsonText({
    ...document,
    problems: listed(all.filter((problem) => !isNote(problem))),
    notes: listed(all.filter(isNote)),
  });
}
