import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { DraftFile } from "../documents/draft-document.ts";
import type { Language } from "../emit/printed.ts";
import { CliError } from "../errors.ts";
import { exportKey, factoryName, guardName, memberName, type Names, typeName } from "../isolation/naming.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import { nearestName } from "../nearest-name.ts";
import { type ConfigEntry, withEntries } from "../parser/config-edit.ts";
import { CONFIG_FILES, type Config, type Isolation } from "../project/config.ts";
import { mentionsName, propertyKey } from "../types/writing/type-text.ts";
import { stringLiteral } from "../written-text.ts";
import type { Outline, OutlineMember } from "./outline/model.ts";
import type { Plan } from "./plan.ts";

/**
 * Every name in the config must belong to something that is used.
 *
 * @throws {CliError} `BAD_CONFIG`
 */
export function requireApplicableNames(
  { members, types }: Outline,
  { exports }: OutsideUses,
  { outside, isInUse }: Plan,
  isolation: Isolation | undefined,
): void {
  // Moved callers use the target, not the outside module.
  if (isInUse || typeof isolation?.names !== "object") return;
  const possibleKeys = [
    ...exports.map(({ specifier, name }) => exportKey(outside, specifier, name)),
    ...types.map(({ outsideName }) => outsideName),
  ];
  for (const key of Object.keys(isolation.names)) {
    const name = key.replace(/^(?:new|type|is) /, "");
    const isWhole = members.some((member) => member.key === name && member.form === "whole");
    const isMember = members.some((member) => member.key === name);
    if ((possibleKeys.includes(name) || isMember) && !(isWhole && key === name)) continue;
    const meant = nearestName(name, possibleKeys);
    const why = isWhole
      ? `the target has the shape of ${key}, so there is no member to name`
      : `the project does not use it`;
    throw new CliError(
      "BAD_CONFIG",
      `The config names ${key} under \`names\` of ${outside}, but ${why}. ${meant && !isWhole ? `Did you mean ${meant}?` : "Remove it."}`,
    );
  }
}

/** Returns the names that differ from the defaults, for the config. */
export function namesFor({ outside, members, types, reexports }: Outline, names: Names): Names {
  const entries: Record<string, string> = { ...names };
  for (const outlineMember of members) {
    const { key, specifier, export: name, member, form, type, implementation } = outlineMember;
    if (implementation) {
      Object.assign(entries, implementedName(outlineMember, outside, names));
      continue;
    }
    const isStandard = memberName(outside, specifier, name, names) === member;
    if (!isStandard && member !== "" && form !== "type" && form !== "factory") entries[key] = member;
    // The target has the shape of this export, which has no name in it.
    if (form === "whole") delete entries[key];
    // A type in a re-exported namespace keeps its name unless it has one here.
    const isInReexport = name.includes(".") && reexports.some((item) => key.startsWith(`${item.key}.`));
    if (type !== undefined && (isInReexport || typeName(key, name, entries) !== type))
      entries[`type ${key}`] = type;
  }
  const named = new Set(members.flatMap(({ type }) => type ?? []));
  const renamed = types.filter(({ name, outsideName }) => name !== outsideName && !named.has(name));
  for (const { name, outsideName } of renamed) entries[`type ${outsideName}`] ??= name;
  return entries;
}

/** Returns the entry for a member whose type follows from use, if its name is not the one that it has without an entry. */
function implementedName(
  { key, member, specifier, export: name, implementation }: OutlineMember,
  outside: string,
  names: Names,
): Names {
  const entry = (entryKey: string, standard: string): Names =>
    member === standard ? {} : { [entryKey]: member };
  if (implementation?.property !== undefined) return entry(key, implementation.property);
  switch (implementation?.kind) {
    case "construct":
      return entry(`new ${key}`, factoryName(outside, specifier, name, names));
    case "guard":
      return entry(`is ${key}`, guardName(outside, specifier, name, names));
    default:
      return entry(key, memberName(outside, specifier, name, names));
  }
}

const ASSERTED = "objects that come out of it go back in, so the adapter asserts its type";

/** Returns the outside types and values beyond the border, with the reasons. */
export function debtOf(
  { object, aliased, types, members, reexports, reexportsAll, reasons }: Outline,
  exposed: ReadonlyMap<string, string>,
): Readonly<Record<string, string>> {
  const typeReason = new Map(types.map(({ name, key }) => [name, reasons.get(key)]));
  const memberReason = (alias: string) =>
    members.find(({ text, aliased }) => aliased !== undefined && mentionsName(text, alias))?.aliased;
  const debt: Record<string, string> = {};
  for (const { name } of aliased)
    debt[name] =
      typeReason.get(name) ?? memberReason(name) ?? "members of it have types that cannot be copied";
  for (const { member, factory, isAsserted } of members)
    for (const name of isAsserted ? [member || object, ...(factory ? [factory.member] : [])] : [])
      debt[name] = ASSERTED;
  for (const { reexportedAs, why } of reexports) debt[reexportedAs] = why;
  if (reexportsAll !== undefined) debt["*"] = "the module is used as a whole";
  for (const [name, place] of exposed) debt[name] ??= `${place} exposes it, because its type is inferred`;
  return debt;
}

export function configEntries(
  { outside }: Outline,
  isolation: Isolation,
  hasTarget: boolean,
  importers: readonly string[],
): readonly ConfigEntry[] {
  const { target, adapter, names, debt = {} } = isolation;
  const object = (record: Readonly<Record<string, string>>) => {
    const lines = Object.entries(record).map(
      ([key, text]) => `  ${propertyKey(key)}: ${stringLiteral(text)},`,
    );
    return lines.length === 0 ? "{}" : ["{", ...lines, "}"].join("\n").replaceAll("\n", "\n  ");
  };
  const list = (...places: readonly string[]) =>
    `[${places.map((place) => stringLiteral(place)).join(", ")}]`;
  const settings = [
    `  target: ${stringLiteral(target)},`,
    `  adapter: ${stringLiteral(adapter)},`,
    `  names: ${names === "same" ? '"same"' : object(names)},`,
    ...(Object.keys(debt).length > 0 ? [`  debt: ${object(debt)},`] : []),
  ];
  return [
    ...(hasTarget ? [{ setting: "targets", key: target, value: list(adapter) }] : []),
    { setting: "borders", key: outside, value: list(...importers) },
    {
      setting: "isolated",
      key: outside,
      value: ["{", ...settings, "}"].join("\n"),
    },
  ];
}

/** Returns the config with the new entries; `undefined` if they must be added manually. */
export function configFileOf(
  root: string,
  entries: readonly ConfigEntry[],
  config: Config,
  language: Language,
): DraftFile | undefined {
  const file = CONFIG_FILES.find((name) => existsSync(join(root, name)));
  if (file === undefined) {
    const newFile = language === "typescript" ? "sleeve.config.ts" : "sleeve.config.mjs";
    const text = withEntries(newFile, "export default {\n};\n", entries);
    return text === undefined ? undefined : { file: newFile, role: "config", state: "new", text };
  }
  const configText = readFileSync(join(root, file), "utf8");
  const missing = entries.filter(({ setting, key }) => {
    const setEntries = config[setting as keyof Config];
    if (Array.isArray(setEntries)) return !setEntries.includes(key);
    return !(typeof setEntries === "object" && key in setEntries);
  });
  const text = withEntries(file, configText, missing);
  if (text === undefined) return undefined;
  return { file, role: "config", state: text === configText ? "the same" : "added to", text };
}

export function entriesText(entries: readonly ConfigEntry[]): string {
  return entries
    .map(({ setting, key, value }) =>
      value === undefined
        ? `${setting}: [${stringLiteral(key)}],`
        : `${setting}: {\n  ${stringLiteral(key)}: ${value.replaceAll("\n", "\n  ")},\n},`,
    )
    .join("\n");
}
