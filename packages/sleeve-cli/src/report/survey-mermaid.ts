import type { Survey } from "../documents/survey-document.ts";
import { printableDocument } from "../printable.ts";

/** Above this number of files, their folders are drawn instead. */
const MOST_FILES = 30;

/** Formats a survey as a Mermaid flowchart: files, or their folders, and the outside packages they use. */
export function surveyMermaid(survey: Survey): string {
  const { packages } = printableDocument(survey);
  const files = new Set(packages.flatMap((pkg) => pkg.files));
  const nodeName = (file: string) => (files.size > MOST_FILES ? folderOf(file) : file);
  const nodes = [...new Set([...files].map(nodeName))].sort();
  const ids = new Map([
    ...nodes.map((node, index) => [node, `f${index}`] as const),
    ...packages.map(({ name }, index) => [`package ${name}`, `p${index}`] as const),
  ]);
  const edges = packages.flatMap(({ name, files: reached }) => {
    const counts = new Map<string, number>();
    for (const file of reached) counts.set(nodeName(file), (counts.get(nodeName(file)) ?? 0) + 1);
    return [...counts].sort().map(([node, count]) => {
      const label = count > 1 ? `|${count} files|` : "";
      return `  ${ids.get(`package ${name}`)} -->${label} ${ids.get(node)}`;
    });
  });
  return [
    "flowchart LR",
    ...packages.map(({ name }) => `  ${ids.get(`package ${name}`)}[["${quoted(name)}"]]`),
    ...nodes.map((node) => `  ${ids.get(node)}["${quoted(node)}"]`),
    ...edges,
    "",
  ].join("\n");
}

function folderOf(file: string): string {
  const end = file.lastIndexOf("/");
  return end < 0 ? "./" : file.slice(0, end + 1);
}

function quoted(text: string): string {
  // Mermaid writes characters by number, and reads labels as HTML and Markdown.
  return text.replace(/["#&<>`]/g, (character) => `#${character.charCodeAt(0)};`);
}
