import { existsSync, readdirSync, statSync } from "node:fs";
import { join, resolve, sep } from "node:path";
import { CliError } from "../errors.ts";

/** A project's folder and its compiler config. */
export interface ProjectFolder {
  readonly root: string;
  /** Its own config, or the path of one that is generated in memory. */
  readonly tsconfig: string;
  /** Text of the generated config. */
  readonly generatedConfig: string | undefined;
}

/** A JavaScript project without a config is read with the most permissive settings. */
const GENERATED_CONFIG = {
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
 * Finds the project in a folder: its `tsconfig.json` or `jsconfig.json`, or else its source files.
 *
 * @throws {CliError} `NO_SUCH_FOLDER`, `NO_PROJECT`
 */
export function findProject(folder: string, tsconfig?: string): ProjectFolder {
  const root = resolve(folder);
  if (!existsSync(root) || !statSync(root).isDirectory()) {
    throw new CliError("NO_SUCH_FOLDER", `There is no folder ${folder}. Pass the folder of a project.`);
  }
  const named = tsconfig
    ? [resolve(root, tsconfig)]
    : ["tsconfig.json", "jsconfig.json"].map((name) => join(root, name));
  const configPath = named.find((path) => existsSync(path));
  if (configPath) return { root, tsconfig: configPath, generatedConfig: undefined };
  if (tsconfig) {
    throw new CliError("NO_PROJECT", `There is no ${tsconfig} in ${folder}. Pass an existing tsconfig.json.`);
  }
  if (!holdsSources(root)) {
    throw new CliError(
      "NO_PROJECT",
      `${folder} contains no project: no tsconfig.json, no package.json, and no TypeScript or JavaScript files. ` +
        "Pass the folder of a project.",
    );
  }
  return { root, tsconfig: join(root, "tsconfig.json"), generatedConfig: JSON.stringify(GENERATED_CONFIG) };
}

function holdsSources(root: string): boolean {
  if (existsSync(join(root, "package.json"))) return true;
  return readdirSync(root, { recursive: true, encoding: "utf8" }).some(
    (path) => /\.[cm]?[jt]sx?$/.test(path) && !path.split(sep).includes("node_modules"),
  );
}
