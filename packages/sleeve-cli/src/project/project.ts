import { existsSync, readdirSync, statSync } from "node:fs";
import { join, resolve, sep } from "node:path";
import { ProblemError } from "../errors.ts";

/** Where a project is and how the compiler is told of it. */
export interface ProjectFolder {
  readonly root: string;
  /** Its own config, or where one would be that is made up for it. */
  readonly tsconfig: string;
  /** The text of the made-up config of a project that has none. */
  readonly madeUp: string | undefined;
}

/** A project of JavaScript without a config is read as the compiler would with its most forgiving settings. */
const MADE_UP_CONFIG = {
  compilerOptions: {
    allowJs: true,
    checkJs: false,
    noEmit: true,
    module: "nodenext",
    target: "esnext",
    jsx: "preserve",
    skipLibCheck: true,
    strict: true,
  },
  include: ["**/*"],
  exclude: ["**/node_modules", "**/dist", "**/build", "**/coverage"],
};

/**
 * Finds the project in a folder: its `tsconfig.json` or `jsconfig.json`, or else the sources that lie there.
 *
 * @throws {ProblemError} `NO_SUCH_FOLDER`, `NO_PROJECT`
 */
export function findProject(folder: string, tsconfig?: string): ProjectFolder {
  const root = resolve(folder);
  if (!existsSync(root) || !statSync(root).isDirectory()) {
    throw new ProblemError("NO_SUCH_FOLDER", `There is no folder ${folder}. Name the folder of a project.`);
  }
  const named = tsconfig
    ? [resolve(root, tsconfig)]
    : ["tsconfig.json", "jsconfig.json"].map((name) => join(root, name));
  const found = named.find((path) => existsSync(path));
  if (found) return { root, tsconfig: found, madeUp: undefined };
  if (tsconfig) {
    throw new ProblemError(
      "NO_PROJECT",
      `There is no ${tsconfig} in ${folder}. Name a tsconfig.json that exists.`,
    );
  }
  if (!holdsSources(root)) {
    throw new ProblemError(
      "NO_PROJECT",
      `There is no project in ${folder}: no tsconfig.json, no package.json and no TypeScript or JavaScript file. ` +
        "Name the folder of a project.",
    );
  }
  return { root, tsconfig: join(root, "tsconfig.json"), madeUp: JSON.stringify(MADE_UP_CONFIG) };
}

function holdsSources(root: string): boolean {
  if (existsSync(join(root, "package.json"))) return true;
  return readdirSync(root, { recursive: true, encoding: "utf8" }).some(
    (path) => /\.[cm]?[jt]sx?$/.test(path) && !path.split(sep).includes("node_modules"),
  );
}
