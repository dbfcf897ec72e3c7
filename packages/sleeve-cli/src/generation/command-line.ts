import { WRAP_KINDS } from "../documents/wrap-kinds.ts";
import type { GenerateOptions } from "./generate-options.ts";
import type { LayerName } from "./layers.ts";
import { shellWord, wordsInCommand } from "./shell-words.ts";

/**
 * Writes the command that generates a file again, from the project's folder.
 *
 * @param applied the layers that the file has
 */
export function commandOf(
  {
    type,
    kind,
    over,
    operations,
    to,
    name,
    tsconfig,
    layers = [],
    clearedBy = [],
    standalone,
  }: GenerateOptions,
  applied: readonly LayerName[],
  file: string,
): string {
  const own = layers.filter((layer) => applied.some((known) => layer.split(":")[0] === known));
  const words = [
    type,
    "--as",
    kind,
    ...(over ?? []).flatMap((adaptee) => ["--over", adaptee]),
    ...(operations ?? []).flatMap((operation) => ["--operation", operation]),
    ...own.flatMap((layer) => ["--layer", layer]),
    ...(clearedBy.length === 0 ? [] : ["--cleared-by", clearedBy.join(",")]),
    ...(standalone === true ? ["--standalone"] : []),
    ...(to === undefined ? [] : ["--to", file]),
    ...(name === undefined ? [] : ["--name", name]),
    ...(tsconfig === undefined ? [] : ["--tsconfig", tsconfig]),
    "--write",
  ];
  return `npx sleeve wrap ${words.map(shellWord).join(" ")}`;
}

/** Reads such a command; `undefined` for one that is not of this version. */
export function optionsIn(command: string): GenerateOptions | undefined {
  const [npx, sleeve, wrap, type, ...words] = wordsInCommand(command) ?? [];
  if (npx !== "npx" || sleeve !== "sleeve" || wrap !== "wrap" || type === undefined) return undefined;
  const values = valuesIn(words);
  const isOption = [...values.keys()].every((option) => FLAGS.has(option) || OPTIONS.has(option));
  const first = (option: string) => values.get(option)?.[0];
  const kind = WRAP_KINDS.find((wrapKind) => wrapKind === first("--as"));
  if (!isOption || !kind) return undefined;
  return {
    type,
    kind,
    over: values.get("--over"),
    operations: values.get("--operation"),
    layers: values.get("--layer"),
    clearedBy: first("--cleared-by")?.split(","),
    standalone: values.has("--standalone"),
    to: first("--to"),
    name: first("--name"),
    tsconfig: first("--tsconfig"),
  };
}

function valuesIn(words: readonly string[]): ReadonlyMap<string, readonly string[]> {
  const values = new Map<string, string[]>();
  for (let at = 0; at < words.length; at++) {
    const option = words[at] ?? "";
    if (FLAGS.has(option)) values.set(option, []);
    else values.set(option, [...(values.get(option) ?? []), words[++at] ?? ""]);
  }
  return values;
}

const FLAGS: ReadonlySet<string> = new Set(["--standalone", "--write"]);

const OPTIONS: ReadonlySet<string> = new Set([
  "--as",
  "--over",
  "--operation",
  "--layer",
  "--cleared-by",
  "--to",
  "--name",
  "--tsconfig",
]);
