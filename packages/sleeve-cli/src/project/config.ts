import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { ProblemError } from "../errors.ts";
import { FINDINGS, type FindingName, isFindingName, LEVELS, type Level } from "../findings.ts";
import { nearestName } from "../nearest-name.ts";
import { writtenConfig } from "../parser/written-config.ts";

/** How much each kind of finding counts, everywhere or by folder and file. */
export type Levels = { readonly [Name in FindingName]?: Level | Readonly<Record<string, Level>> };

/** A finding that a project knows of and lives with. */
export interface Accepted {
  readonly finding: FindingName;
  /** The file, or the folder with a slash at its end. */
  readonly in: string;
  /** The one member it is about; all of them, unless given. */
  readonly member?: string;
  readonly reason: string;
  /** The last day on which it is accepted, as `2027-01-31`; without an end, unless given. */
  readonly until?: string;
}

/** What a config makes of findings. */
export interface Settings {
  /** Findings are errors, unless told here. */
  readonly levels?: Levels;
  /** Findings that are told and fail nothing. */
  readonly accepted?: readonly Accepted[];
}

/** An outside module that is isolated, or about to be: what takes its place. */
export interface Isolation {
  /** The target, as `file#interface`. */
  readonly target: string;
  /** The adapter, as `file#object`; its file is the only importer. */
  readonly adapter: string;
  /**
   * How callers name what they use: as ever, so that only their imports change, or by the members of the target. Of these
   * the names may be given, by outside names: `sum`, `default`, `part#sum` of a part of a package, `new Crane` of what makes
   * a crane, and a type's.
   */
  readonly names: "same" | Readonly<Record<string, string>>;
}

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
 *   levels: { ignored: "warning", leak: { "src/legacy/": "off" } },
 *   accepted: [
 *     { finding: "assertion", in: "src/tides/gauge-tides.ts", reason: "the feed has no types for its readings" },
 *   ],
 * } satisfies Config;
 */
export interface Config extends Settings {
  /** Each target, with the wrappers that have to conform to it. */
  readonly targets?: Readonly<Record<string, readonly string[]>>;
  /** Those of the wrappers that are facades, which delegate and do no work themselves. */
  readonly facades?: readonly string[];
  /**
   * Each outside package that is kept behind a border, with the only files that may import it. A name that ends in a
   * slash stands for all files in that folder.
   */
  readonly borders?: Readonly<Record<string, readonly string[]>>;
  /** Each outside module that `draft` and `move` isolate, with what takes its place. */
  readonly isolated?: Readonly<Record<string, Isolation>>;
  /** Files of the project, and folders with a slash at their end, that count as outside: legacy modules. */
  readonly legacy?: readonly string[];
  /** The compiler's config, where it is not `tsconfig.json`. */
  readonly tsconfig?: string;
}

/** The names under which a project may have its config, the first found counts. */
export const CONFIG_FILES = [
  "sleeve.config.ts",
  "sleeve.config.mts",
  "sleeve.config.js",
  "sleeve.config.mjs",
];

/**
 * Loads the config of a project, or gives `undefined` where it has none.
 *
 * @throws {ProblemError} `BROKEN_CONFIG`, `BAD_CONFIG`
 */
export async function loadConfig(root: string): Promise<Config | undefined> {
  const name = CONFIG_FILES.find((each) => existsSync(join(root, each)));
  if (!name) return undefined;
  try {
    const path = join(root, name);
    const { value } = writtenConfig(path, readFileSync(path, "utf8")) ?? (await runConfig(path));
    return validConfig(name, value);
  } catch (cause) {
    if (cause instanceof ProblemError) throw cause;
    const reason = cause instanceof Error ? (cause.message.split("\n")[0] ?? "") : String(cause);
    throw new ProblemError(
      "BROKEN_CONFIG",
      `${name} cannot be loaded: ${reason}. Correct it and run again.`,
      { cause },
    );
  }
}

/** Runs a config; what it takes to run TypeScript is loaded only where it is needed. */
async function runConfig(path: string): Promise<{ readonly value: unknown }> {
  const { createJiti } = await import("jiti");
  const jiti = createJiti(import.meta.url, { moduleCache: false, fsCache: false });
  return { value: await jiti.import(path, { default: true }) };
}

type Refuse = (what: string) => never;

function validConfig(name: string, config: unknown): Config {
  const refuse: Refuse = (what) => {
    throw new ProblemError("BAD_CONFIG", `${name} ${what}.`);
  };
  if (!isRecord(config)) return refuse("has to export an object by default");
  for (const [key, value] of Object.entries(config)) {
    if (!Object.hasOwn(KEYS, key)) {
      const known = Object.keys(KEYS);
      const meant = nearestName(key, known);
      refuse(
        `has "${key}", which is no setting. ${meant ? `Write ${meant}` : `Use one of ${known.join(", ")}`}`,
      );
    }
    KEYS[key as keyof Config](value, refuse);
  }
  return config as Config;
}

/** What each setting has to be. */
const KEYS: Readonly<Record<keyof Config, (value: unknown, refuse: Refuse) => void>> = {
  tsconfig: (value, refuse) => {
    if (typeof value !== "string") refuse("has to give `tsconfig` as the path of a file");
  },
  targets: (value, refuse) => {
    if (!isRecordOfLists(value)) return refuse("has to give `targets` as an object of lists of strings");
    for (const place of [...Object.keys(value), ...Object.values(value).flat()])
      requireExport(place, "targets", refuse);
  },
  facades: (value, refuse) => {
    if (!isList(value)) return refuse("has to give `facades` as a list of strings");
    for (const place of value) requireExport(place, "facades", refuse);
  },
  borders: (value, refuse) => {
    if (!isRecordOfLists(value)) refuse("has to give `borders` as an object of lists of strings");
  },
  isolated: (value, refuse) => {
    if (!isRecord(value)) return refuse("has to give `isolated` as an object of modules");
    for (const [outside, each] of Object.entries(value)) {
      if (!isRecord(each)) return refuse(`has to give ${outside} under isolated as an object`);
      for (const key of ["target", "adapter"])
        requireExport(String(each[key]), `isolated, as the ${key} of ${outside},`, refuse);
      const { names } = each;
      if (
        names !== "same" &&
        !(isRecord(names) && Object.values(names).every((name) => typeof name === "string"))
      )
        refuse(`has to give the names of ${outside} under isolated as "same", or as an object of strings`);
    }
  },
  legacy: (value, refuse) => {
    if (!isList(value)) refuse("has to give `legacy` as a list of files and folders/");
  },
  levels: (value, refuse) => {
    if (!isRecord(value)) return refuse("has to give `levels` as an object of findings");
    for (const [finding, level] of Object.entries(value)) {
      requireFinding(finding, "levels", refuse);
      for (const each of isRecord(level) ? Object.values(level) : [level]) {
        if (!LEVELS.some((known) => known === each))
          refuse(`gives ${finding} the level "${String(each)}"; use ${LEVELS.join(", ")}`);
      }
    }
  },
  accepted: (value, refuse) => {
    if (!Array.isArray(value)) return refuse("has to give `accepted` as a list");
    for (const each of value as readonly unknown[]) {
      const { finding, in: place, reason, until } = isRecord(each) ? each : {};
      requireFinding(String(finding), "accepted", refuse);
      if (typeof place !== "string")
        refuse(`accepts ${String(finding)} nowhere; give \`in\`, a file or a folder/`);
      if (typeof reason !== "string" || reason.trim() === "")
        refuse(`accepts ${String(finding)} in ${String(place)} for no reason; give \`reason\``);
      if (until !== undefined && !(typeof until === "string" && /^\d{4}-\d\d-\d\d$/.test(until)))
        refuse(
          `accepts ${String(finding)} in ${String(place)} until "${String(until)}"; give \`until\` as 2027-01-31`,
        );
    }
  },
};

function requireExport(place: string, key: string, refuse: Refuse): void {
  if (!/^[^#]+#[^#]+$/.test(place)) refuse(`names "${place}" under ${key}; write it as file#export`);
}

function requireFinding(name: string, key: string, refuse: Refuse): void {
  if (isFindingName(name)) return;
  const known = Object.keys(FINDINGS);
  const meant = nearestName(name, known);
  refuse(`names "${name}" under ${key}, which is no finding; use ${meant ?? `one of ${known.join(", ")}`}`);
}

function isRecord(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function isList(value: unknown): value is readonly string[] {
  return Array.isArray(value) && value.every((item) => typeof item === "string");
}

function isRecordOfLists(value: unknown): value is Readonly<Record<string, readonly string[]>> {
  return isRecord(value) && Object.values(value).every(isList);
}
