import { dirname } from "node:path";
import { stemOf } from "../isolation/file-language.ts";
import { asTypeName, camelCase, exportKey, isWord, mentionsName } from "../isolation/naming.ts";
import type { OutsideUses } from "../isolation/outside-uses.ts";
import { compareText } from "../place.ts";
import type { CopiedType } from "../types/copied-types.ts";
import type { OutlineMember } from "./outline.ts";

/** Members of a target that are used together, as an interface that the target extends. */
export interface MemberGroup {
  readonly name: string;
  /** The file, or the folder with a trailing slash, that uses them. */
  readonly usedIn: string;
  /** The exports that they replace. */
  readonly keys: readonly string[];
}

/** Minimum number of members in a group. */
const LEAST = 2;

/**
 * Returns groups of a target's members that are used in separate places. Members used in one file, or
 * mentioning one type, belong together. Returns none unless there are several groups of several members each,
 * in different places.
 */
export function groupsOf(
  target: string,
  outside: string,
  members: readonly OutlineMember[],
  types: readonly CopiedType[],
  { exports }: OutsideUses,
): readonly MemberGroup[] {
  const filesOf = new Map(
    exports.map((exported) => [
      exportKey(outside, exported.specifier, exported.name),
      [...new Set(exported.places.map(({ file }) => file))],
    ]),
  );
  const values = members.filter(({ form }) => form !== "type" && form !== "whole");
  const bonds = values.map(({ key, text }) => [
    ...(filesOf.get(key) ?? []).map((file) => `file ${file}`),
    ...types.filter(({ name }) => mentionsName(text, name)).map(({ name }) => `type ${name}`),
  ]);
  const groups = connected(bonds)
    .filter((indices) => indices.length >= LEAST)
    .map((indices) => indices.map((index) => (values[index] as OutlineMember).key));
  if (groups.length < 2) return [];
  const placeOf = (keys: readonly string[]) => commonPlace(keys.flatMap((key) => filesOf.get(key) ?? []));
  const whole = placeOf(values.map(({ key }) => key));
  const places = groups.map(placeOf);
  const taken = new Set([target, ...types.map(({ name }) => name)]);
  return groups.flatMap((keys, index) => {
    const usedIn = places[index] as string;
    const word = asTypeName(camelCase(lastPart(usedIn))).replace(new RegExp(`^${target}(?=[A-Z])`), "");
    // Members used everywhere belong to the target itself; two groups in one place cannot be named apart.
    const isApart = usedIn !== whole && places.filter((place) => place === usedIn).length === 1;
    return isApart && isWord(word) ? [{ name: freeName(`${target}For${word}`, taken), usedIn, keys }] : [];
  });
}

/** Joins the indices of those that share something, transitively, in the order of the first of each. */
function connected(bonds: readonly (readonly string[])[]): readonly (readonly number[])[] {
  const groups: { readonly indices: number[]; readonly shared: Set<string> }[] = [];
  bonds.forEach((own, index) => {
    const touched = groups.filter(({ shared }) => own.some((name) => shared.has(name)));
    const whole = {
      indices: [...touched.flatMap(({ indices }) => indices), index],
      shared: new Set([...own, ...touched.flatMap(({ shared }) => [...shared])]),
    };
    for (const file of touched) groups.splice(groups.indexOf(file), 1);
    groups.push(whole);
  });
  return groups
    .map(({ indices }) => indices.sort((left, right) => left - right))
    .sort(([left = 0], [right = 0]) => left - right);
}

/** Returns the single file, or else the innermost folder that contains all files. */
function commonPlace(files: readonly string[]): string {
  const [first = "", ...rest] = [...new Set(files)].sort(compareText);
  if (rest.length === 0) return first;
  let folder = dirname(first);
  while (folder !== "." && !rest.every((item) => item.startsWith(`${folder}/`))) folder = dirname(folder);
  return folder === "." ? "" : `${folder}/`;
}

function lastPart(place: string): string {
  return stemOf(place.replace(/\/$/, "")).split("/").at(-1) ?? "";
}

function freeName(name: string, taken: Set<string>): string {
  let free = name;
  for (let count = 2; taken.has(free); count++) free = `${name}${count}`;
  taken.add(free);
  return free;
}
