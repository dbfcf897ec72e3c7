import { existsSync, readFileSync } from "node:fs";
import { dirname, relative, sep } from "node:path";
import { applyEdits, type FormattingOptions, modify } from "jsonc-parser";
import { extendedBy, valuesIn } from "./config-text.ts";

/** A config file with a change that is not written yet. */
export interface ConfigEdit {
  readonly path: string;
  readonly text: string;
}

/**
 * Returns a config that also compiles the given files. They are listed under `files`, in the config where that
 * setting comes from; the rest of its text stays the same.
 */
export function configWithFiles(tsconfig: string, paths: readonly string[]): ConfigEdit {
  const chain = chainOf(tsconfig);
  const listing = chain.find((path) => Array.isArray(valuesIn(path)["files"]));
  const path = listing ?? tsconfig;
  const text = readFileSync(path, "utf8");
  const listed = valuesIn(path)["files"];
  const patterns = Array.isArray(listed) ? (listed as readonly unknown[]) : [];
  const added = paths.map((file) => {
    const name = relative(dirname(path), file).split(sep).join("/");
    return name.startsWith(".") || !patterns.some((pattern) => String(pattern).startsWith("./"))
      ? name
      : `./${name}`;
  });
  // Without `include`, a config with `files` compiles nothing else.
  const hasInclude = listing !== undefined || chain.some((config) => "include" in valuesIn(config));
  const withInclude = hasInclude ? text : withSetting(text, ["include"], ["**/*"]);
  return { path, text: withSetting(withInclude, ["files"], [...patterns, ...added]) };
}

/** Returns a config and those that it extends, nearest first. */
function chainOf(tsconfig: string, through: readonly string[] = []): readonly string[] {
  if (!existsSync(tsconfig) || through.includes(tsconfig)) return [];
  const bases = [...extendedBy(tsconfig)].reverse();
  return [tsconfig, ...bases.flatMap((base) => chainOf(base, [...through, tsconfig]))];
}

function withSetting(text: string, setting: readonly string[], value: unknown): string {
  const formattingOptions: FormattingOptions = {
    insertSpaces: !/^\t/m.test(text),
    tabSize: /^( +)\S/m.exec(text)?.[1]?.length ?? 2,
    eol: text.includes("\r\n") ? "\r\n" : "\n",
  };
  return applyEdits(text, modify(text, [...setting], value, { formattingOptions }));
}
