import { existsSync } from "node:fs";
import { join } from "node:path";
import { createJiti } from "jiti";
import { ProblemError } from "../errors.ts";

/**
 * What `sleeve.config.ts` exports by default.
 *
 * Files are named relative to the folder of the config, and exports as `file#export`.
 *
 * @example
 * import type { Config } from "sleeve-cli";
 *
 * export default {
 *   targets: {
 *     "src/tides/tide-table.ts#TideTable": ["src/tides/gauge-tides.ts#gaugeTides"],
 *   },
 *   borders: {
 *     "@port-ellery/gauge-feed": ["src/tides/gauge-tides.ts"],
 *   },
 * } satisfies Config;
 */
export interface Config {
  /** Each target, with the wrappers that have to conform to it. */
  readonly targets?: Readonly<Record<string, readonly string[]>>;
  /** Those of the wrappers that are facades, which delegate and do no work themselves. */
  readonly facades?: readonly string[];
  /**
   * Each outside package that is kept behind a border, with the only files that may import it. A name that ends in a
   * slash stands for all files in that folder.
   */
  readonly borders?: Readonly<Record<string, readonly string[]>>;
  /** The compiler's config, where it is not `tsconfig.json`. */
  readonly tsconfig?: string;
}

const NAMES = ["sleeve.config.ts", "sleeve.config.mts", "sleeve.config.js", "sleeve.config.mjs"];

/**
 * Loads the config of a project, or gives `undefined` where it has none.
 *
 * @throws {ProblemError} `BROKEN_CONFIG`, `BAD_CONFIG`
 */
export async function loadConfig(root: string): Promise<Config | undefined> {
  const name = NAMES.find((each) => existsSync(join(root, each)));
  if (!name) return undefined;
  let loaded: unknown;
  try {
    loaded = await createJiti(import.meta.url, { moduleCache: false, fsCache: false }).import(
      join(root, name),
      { default: true },
    );
  } catch (cause) {
    const reason = cause instanceof Error ? (cause.message.split("\n")[0] ?? "") : String(cause);
    throw new ProblemError(
      "BROKEN_CONFIG",
      `${name} cannot be loaded: ${reason}. Correct it and run again.`,
      { cause },
    );
  }
  return validConfig(name, loaded);
}

function validConfig(name: string, config: unknown): Config {
  const refuse = (what: string): never => {
    throw new ProblemError("BAD_CONFIG", `${name} ${what}.`);
  };
  if (typeof config !== "object" || config === null) return refuse("has to export an object by default");
  for (const [key, value] of Object.entries(config)) {
    if (key === "tsconfig") {
      if (typeof value !== "string") refuse("has to give `tsconfig` as the path of a file");
    } else if (key === "targets" || key === "borders") {
      if (!isRecordOfLists(value)) refuse(`has to give \`${key}\` as an object of lists of strings`);
    } else {
      refuse(`has "${key}", which is none of targets, borders and tsconfig. Remove it or correct its name`);
    }
  }
  const { targets = {} } = config as Config;
  for (const place of [...Object.keys(targets), ...Object.values(targets).flat()]) {
    if (!/^[^#]+#[^#]+$/.test(place)) refuse(`names "${place}" under targets; write it as file#export`);
  }
  return config as Config;
}

function isRecordOfLists(value: unknown): value is Readonly<Record<string, readonly string[]>> {
  return (
    typeof value === "object" &&
    value !== null &&
    Object.values(value).every(
      (list) => Array.isArray(list) && list.every((item) => typeof item === "string"),
    )
  );
}
