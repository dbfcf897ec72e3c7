import { readdirSync } from "node:fs";
import { join } from "node:path";

/** The formats of single-file components, by the ending of their files. */
export const FORMATS = ["vue", "svelte", "astro", "mdx"] as const;

export type Format = (typeof FORMATS)[number];

const SKIPPED: ReadonlySet<string> = new Set(["node_modules", "dist", "build", "coverage"]);

/** Returns the paths of a project's single-file components, in order. */
export function findComponents(root: string): readonly string[] {
  const components: string[] = [];
  const search = (folder: string): void => {
    for (const entry of entriesOf(folder)) {
      const { name } = entry;
      if (entry.isDirectory()) {
        if (!name.startsWith(".") && !SKIPPED.has(name)) search(join(folder, name));
      } else if (formatOf(name) !== undefined && entry.isFile()) components.push(join(folder, name));
    }
  };
  search(root);
  return components.sort();
}

export function formatOf(path: string): Format | undefined {
  return FORMATS.find((format) => path.endsWith(`.${format}`));
}

function entriesOf(folder: string) {
  try {
    return readdirSync(folder, { withFileTypes: true });
  } catch {
    return [];
  }
}
