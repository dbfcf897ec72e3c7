import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { CliError } from "../errors.ts";
import { type CheckFindingName, FINDINGS, isFindingName, SEVERITIES, type Severity } from "../findings.ts";
import { nearestName } from "../nearest-name.ts";
import { NO_CONFIG_CODE, refusesConfigCode } from "../no-config-code.ts";
import { writtenConfig } from "../parser/literal-config.ts";

/** The severity of each finding, everywhere or by folder and file. */
export type Severities = {
  readonly [Name in CheckFindingName]?: Severity | Readonly<Record<string, Severity>>;
};

/** A known finding that does not fail the check. */
export interface Suppression {
  readonly finding: CheckFindingName;
  /** The file, or the folder with a trailing slash. */
  readonly in: string;
  /** The member it belongs to. Default: all members. */
  readonly member?: string;
  readonly reason: string;
  /** The last day of the suppression, as `2027-01-31`. Default: no end. */
  readonly until?: string;
}

/** Settings that decide how findings count. */
export interface Settings {
  /** Severities by finding. Default: `error`. */
  readonly severities?: Severities;
  /** Findings that are reported and do not fail. */
  readonly suppressions?: readonly Suppression[];
}

/** An isolated outside module, and what replaces it. */
export interface Isolation {
  /** The target, as `file#interface`. */
  readonly target: string;
  /** The adapter, as `file#object`; its file is the only importer. */
  readonly adapter: string;
  /**
   * How callers name what they use: `"same"` keeps the outside names, so that only imports change. An object
   * renames members and types of the target by outside name: `sum`, `default`, `part#sum` of a part of a package,
   * `new Crane` for a factory, `is Refusal` for a type guard, `default.lift` for a member of an export, `type Load` for a type.
   */
  readonly names: "same" | Readonly<Record<string, string>>;
  /**
   * What the types of a drafted target follow from: what callers use, or what the module declares, reduced to what is
   * used. Default: `"used"`.
   */
  readonly types?: "used" | "declared";
  /**
   * Outside types and values that the target aliases, by name, with the reason for each. `check` reports any
   * other. Default: none.
   */
  readonly debt?: Readonly<Record<string, string>>;
}

/**
 * The default export of `sleeve.config.ts`.
 *
 * Files are relative to the folder of the config; exports are written `file#export`.
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
 *   severities: { unused: "warning", leak: { "src/legacy/": "off" } },
 *   suppressions: [
 *     { finding: "assertion", in: "src/tides/gauge-tides.ts", reason: "the feed has no types for its readings" },
 *   ],
 * } satisfies Config;
 */
export interface Config extends Settings {
  /** Targets, with the wrappers that must conform to each. */
  readonly targets?: Readonly<Record<string, readonly string[]>>;
  /** Wrappers that are facades, which delegate and have no logic of their own. */
  readonly facades?: readonly string[];
  /**
   * Outside packages behind a border, with the only files that may import each. A trailing slash allows a
   * whole folder.
   */
  readonly borders?: Readonly<Record<string, readonly string[]>>;
  /** Outside modules that `draft` and `move` isolate, with what replaces each. */
  readonly isolated?: Readonly<Record<string, Isolation>>;
  /** Maximum number of entries under `debt`, of all isolated modules together. Default: no limit. */
  readonly maxDebt?: number;
  /** Files and folders (trailing slash) of the project that count as outside: legacy modules. */
  readonly legacy?: readonly string[];
  /**
   * Words that mean the same in names of members, as lists, for the proposals of generated adapters. Default: words of
   * programming in general.
   */
  readonly synonyms?: readonly (readonly string[])[];
  /** Path of the compiler's config. Default: `tsconfig.json`. */
  readonly tsconfig?: string;
}

/** Names of the config file; the first one found is used. */
export const CONFIG_FILES = [
  "sleeve.config.ts",
  "sleeve.config.mts",
  "sleeve.config.js",
  "sleeve.config.mjs",
];

/**
 * Loads the config of a project, or returns `undefined` if it has none. Plain data is read; code runs in a process
 * of its own.
 *
 * @throws {CliError} `BROKEN_CONFIG`, `BAD_CONFIG`, `CONFIG_CODE`
 */
export async function loadConfig(root: string): Promise<Config | undefined> {
  const name = CONFIG_FILES.find((name) => existsSync(join(root, name)));
  if (!name) return undefined;
  const path = join(root, name);
  const text = textOf(path, name);
  const literal = writtenConfig(path, text);
  if (literal) return validConfig(name, literal.value);
  if (refusesConfigCode()) {
    throw new CliError(
      "CONFIG_CODE",
      `${name} contains code, which --no-config-code and ${NO_CONFIG_CODE} refuse to run. Write it as plain data, or allow its code.`,
    );
  }
  const { runConfig } = await import("./child-processes/run-config.ts");
  const run = runConfig(path);
  if ("failure" in run) {
    const reason = run.failure.replace(/\.$/, "");
    throw new CliError("BROKEN_CONFIG", `${name} cannot be loaded: ${reason}. Correct it and run again.`);
  }
  return validConfig(name, run.value);
}

/** Returns the config file of a project and its text; `undefined` if there is none. */
export function configTextIn(root: string): { readonly file: string; readonly text: string } | undefined {
  const file = CONFIG_FILES.find((name) => existsSync(join(root, name)));
  return file === undefined ? undefined : { file, text: textOf(join(root, file), file) };
}

/** @throws {CliError} `BROKEN_CONFIG` */
function textOf(path: string, name: string): string {
  try {
    return readFileSync(path, "utf8");
  } catch {
    throw new CliError("BROKEN_CONFIG", `${name} cannot be read. Grant read permission on it and run again.`);
  }
}

type Refuse = (what: string) => never;

function validConfig(name: string, config: unknown): Config {
  const refuse: Refuse = (what) => {
    throw new CliError("BAD_CONFIG", `${name} ${what}.`);
  };
  if (!isRecord(config)) return refuse("must export an object by default");
  for (const [key, value] of Object.entries(config)) {
    if (!Object.hasOwn(KEYS, key)) {
      const settingNames = Object.keys(KEYS);
      const meant = nearestName(key, settingNames);
      refuse(
        `has the unknown setting "${key}". ${meant ? `Write ${meant}` : `Use one of ${settingNames.join(", ")}`}`,
      );
    }
    KEYS[key as keyof Config](value, refuse);
  }
  return config as Config;
}

/** The validation of each setting. */
const KEYS: Readonly<Record<keyof Config, (value: unknown, refuse: Refuse) => void>> = {
  tsconfig: (value, refuse) => {
    if (typeof value !== "string") refuse("must set `tsconfig` to the path of a file");
  },
  targets: (value, refuse) => {
    if (!isRecordOfLists(value)) return refuse("must set `targets` to an object of string arrays");
    for (const place of [...Object.keys(value), ...Object.values(value).flat()])
      requireExport(place, "targets", refuse);
  },
  facades: (value, refuse) => {
    if (!isList(value)) return refuse("must set `facades` to an array of strings");
    for (const place of value) requireExport(place, "facades", refuse);
  },
  borders: (value, refuse) => {
    if (!isRecordOfLists(value)) refuse("must set `borders` to an object of string arrays");
  },
  isolated: (value, refuse) => {
    if (!isRecord(value)) return refuse("must set `isolated` to an object of modules");
    for (const [outside, isolation] of Object.entries(value)) {
      if (!isRecord(isolation)) return refuse(`must set ${outside} under \`isolated\` to an object`);
      for (const key of ["target", "adapter"])
        requireExport(String(isolation[key]), `isolated, as the ${key} of ${outside},`, refuse);
      const { names, debt, types } = isolation;
      if (types !== undefined && types !== "used" && types !== "declared")
        refuse(`must set \`types\` of ${outside} under \`isolated\` to "used" or "declared"`);
      if (debt !== undefined && !isRecordOfTexts(debt))
        refuse(`must set \`debt\` of ${outside} under \`isolated\` to an object with a reason for each name`);
      if (names !== "same" && !isRecordOfTexts(names))
        refuse(`must set \`names\` of ${outside} under \`isolated\` to "same", or to an object of strings`);
    }
  },
  maxDebt: (value, refuse) => {
    if (!(typeof value === "number" && Number.isInteger(value) && value >= 0))
      refuse("must set `maxDebt` to a whole number, 0 or more");
  },
  legacy: (value, refuse) => {
    if (!isList(value)) refuse("must set `legacy` to an array of files and folders/");
  },
  synonyms: (value, refuse) => {
    if (!(Array.isArray(value) && value.every(isList)))
      refuse("must set `synonyms` to an array of string arrays");
  },
  severities: (value, refuse) => {
    if (!isRecord(value)) return refuse("must set `severities` to an object of findings");
    for (const [finding, level] of Object.entries(value)) {
      requireFinding(finding, "severities", refuse);
      for (const item of isRecord(level) ? Object.values(level) : [level]) {
        if (!SEVERITIES.some((severity) => severity === item))
          refuse(`sets ${finding} to the severity "${String(item)}"; use ${SEVERITIES.join(", ")}`);
      }
    }
  },
  suppressions: (value, refuse) => {
    if (!Array.isArray(value)) return refuse("must set `suppressions` to an array");
    for (const item of value as readonly unknown[]) {
      const { finding, in: place, reason, until } = isRecord(item) ? item : {};
      requireFinding(String(finding), "suppressions", refuse);
      if (typeof place !== "string")
        refuse(`suppresses ${String(finding)} without a place; set \`in\` to a file or a folder/`);
      if (typeof reason !== "string" || reason.trim() === "")
        refuse(`suppresses ${String(finding)} in ${String(place)} without a reason; set \`reason\``);
      if (until !== undefined && !(typeof until === "string" && /^\d{4}-\d\d-\d\d$/.test(until)))
        refuse(
          `suppresses ${String(finding)} in ${String(place)} until "${String(until)}"; write \`until\` as 2027-01-31`,
        );
    }
  },
};

function requireExport(place: string, key: string, refuse: Refuse): void {
  if (!/^.+#[^#]+$/.test(place)) refuse(`names "${place}" under ${key}; write it as file#export`);
}

function requireFinding(name: string, key: string, refuse: Refuse): void {
  if (isFindingName(name)) return;
  const findingNames = Object.keys(FINDINGS);
  const meant = nearestName(name, findingNames);
  refuse(
    `names "${name}" under ${key}, which is not a finding; use ${meant ?? `one of ${findingNames.join(", ")}`}`,
  );
}

function isRecord(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function isList(value: unknown): value is readonly string[] {
  return Array.isArray(value) && value.every((item) => typeof item === "string");
}

function isRecordOfTexts(value: unknown): value is Readonly<Record<string, string>> {
  return isRecord(value) && Object.values(value).every((text) => typeof text === "string");
}

function isRecordOfLists(value: unknown): value is Readonly<Record<string, readonly string[]>> {
  return isRecord(value) && Object.values(value).every(isList);
}
