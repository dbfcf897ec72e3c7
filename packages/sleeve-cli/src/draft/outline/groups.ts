import { dirname } from "node:path";
import { stemOf } from "../../isolation/file-language.ts";
import { compareText } from "../../place.ts";
import { asTypeName, camelCase, isIdentifierName, mentionsName } from "../../types/writing/type-text.ts";

/** Members of a target that are used together, as an interface that the target extends. */
export interface MemberGroup {
  readonly name: string;
  /** The file, or the folder with a trailing slash, that uses them. */
  readonly usedIn: string;
  /** The exports that they replace. */
  readonly keys: readonly string[];
}

/** A member to group: its key, its declaration as text, and the files that use it. */
export interface GroupableMember {
  readonly key: string;
  readonly text: string;
  readonly files: readonly string[];
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
  members: readonly GroupableMember[],
  typeNames: readonly string[],
): readonly MemberGroup[] {
  const bonds = members.map(({ text, files }) => [
    ...files.map((file) => `file ${file}`),
    ...typeNames.filter((name) => mentionsName(text, name)).map((name) => `type ${name}`),
  ]);
  const groups = connected(bonds)
    .filter((indices) => indices.length >= LEAST)
    .map((indices) => indices.map((index) => members[index] as GroupableMember));
  if (groups.length < 2) return [];
  const placeOf = (group: readonly GroupableMember[]) => commonPlace(group.flatMap(({ files }) => files));
  const commonToAll = placeOf(members);
  const places = groups.map(placeOf);
  const taken = new Set([target, ...typeNames]);
  return groups.flatMap((group, index) => {
    const usedIn = places[index] as string;
    const word = asTypeName(camelCase(lastPart(usedIn))).replace(new RegExp(`^${target}(?=[A-Z])`), "");
    // Members used everywhere belong to the target itself; two groups in one place cannot be named apart.
    const isApart = usedIn !== commonToAll && places.filter((place) => place === usedIn).length === 1;
    return isApart && isIdentifierName(word)
      ? [{ name: freeName(`${target}For${word}`, taken), usedIn, keys: group.map(({ key }) => key) }]
      : [];
  });
}

/** Joins the indices of those that share something, transitively, in the order of the first of each. */
function connected(bonds: readonly (readonly string[])[]): readonly (readonly number[])[] {
  const groups: { readonly indices: number[]; readonly shared: Set<string> }[] = [];
  bonds.forEach((bond, index) => {
    const touched = groups.filter(({ shared }) => bond.some((name) => shared.has(name)));
    const merged = {
      indices: [...touched.flatMap(({ indices }) => indices), index],
      shared: new Set([...bond, ...touched.flatMap(({ shared }) => [...shared])]),
    };
    for (const file of touched) groups.splice(groups.indexOf(file), 1);
    groups.push(merged);
  });
  return groups
    .map(({ indices }) => indices.sort((left, right) => left - right))
    .sort(([left = 0], [right = 0]) => left - right);
}

/** Returns the single file, or else the innermost folder that contains all files. */
function commonPlace(files: readonly string[]): string {
  const [firstFile = "", ...otherFiles] = [...new Set(files)].sort(compareText);
  if (otherFiles.length === 0) return firstFile;
  let folder = dirname(firstFile);
  while (folder !== "." && !otherFiles.every((item) => item.startsWith(`${folder}/`)))
    folder = dirname(folder);
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
