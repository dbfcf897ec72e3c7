import { dirname, relative, sep } from "node:path";
import type { SourceText } from "../project/source-text.ts";
import { requirePlainPaths } from "../written-text.ts";

/** How a project's files name each other in imports. */
export type SpecifierEnding = "source" | "compiled" | "none";

/**
 * Returns the specifier with which one file imports another.
 *
 * @throws {CliError} `BAD_PATH`
 */
export function specifierBetween(from: string, to: string, ending: SpecifierEnding): string {
  requirePlainPaths([to]);
  const path = relative(dirname(from), to).split(sep).join("/");
  const relativePath = path.startsWith(".") ? path : `./${path}`;
  switch (ending) {
    case "source":
      return relativePath;
    case "compiled":
      return relativePath.replace(/(\.d)?\.([cm]?)tsx?$/, ".$2js");
    case "none":
      return relativePath.replace(/(\.d)?\.[cm]?[jt]sx?$/, "");
  }
}

/** Returns the ending of a file's relative specifiers: its own habit, or else the project's. */
export function endingOf(
  source: SourceText | undefined,
  sources: readonly SourceText[],
  fallback: SpecifierEnding,
): SpecifierEnding {
  return mostUsed(source ? [source] : []) ?? mostUsed(sources) ?? fallback;
}

function mostUsed(sources: readonly SourceText[]): SpecifierEnding | undefined {
  const counts = { source: 0, compiled: 0, none: 0 };
  for (const { sites, path } of sources) {
    const isScript = /\.[cm]?jsx?$/.test(path);
    for (const { specifier } of sites) {
      if (!/^\.\.?\//.test(specifier)) continue;
      if (/\.[cm]?tsx?$/.test(specifier)) counts.source++;
      // Scripts import scripts by their real names.
      else if (/\.[cm]?jsx?$/.test(specifier)) counts[isScript ? "source" : "compiled"]++;
      else if (!/\.(json|css|svg|node|wasm)$/.test(specifier)) counts.none++;
    }
  }
  const [mostFrequent] = (["source", "compiled", "none"] as const)
    .filter((item) => counts[item] > 0)
    .sort((left, right) => counts[right] - counts[left]);
  return mostFrequent;
}
