import { dirname } from "node:path";
import type { OwnType } from "../compiler/own-types.ts";
import { stemOf } from "../isolation/language.ts";
import { asTypeName, camelCase, exportKey, isWord, mentionsName } from "../isolation/naming.ts";
import type { OutsideUses } from "../isolation/outside-uses.ts";
import { compareText } from "../place.ts";
import type { OutlineMember } from "./outline.ts";

/** Members of a target that belong together, as an interface of their own, which the target extends. */
export interface MemberGroup {
  readonly name: string;
  /** The file, or the folder with a slash at its end, that uses them. */
  readonly usedIn: string;
  /** The exports that they are there for. */
  readonly keys: readonly string[];
}

/** Fewer members than this are no group. */
const LEAST = 2;

/**
 * The groups into which the uses of a target fall apart: members belong together that are used in one file, or speak of one
 * type. None, where they do not fall into several groups of several members each; nor is what is used all over one.
 */
export function groupsOf(
  target: string,
  outside: string,
  members: readonly OutlineMember[],
  types: readonly OwnType[],
  { exports }: OutsideUses,
): readonly MemberGroup[] {
  const filesOf = new Map(
    exports.map((each) => [
      exportKey(outside, each.specifier, each.name),
      [...new Set(each.places.map(({ file }) => file))],
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
    // What is used all over is the target's own, and nothing tells two groups of one place apart.
    const isApart = usedIn !== whole && places.filter((each) => each === usedIn).length === 1;
    return isApart && isWord(word) ? [{ name: freeName(`${target}For${word}`, taken), usedIn, keys }] : [];
  });
}

/** Puts together the indices of those that share something, directly or through others, in the order of the first of each. */
function connected(bonds: readonly (readonly string[])[]): readonly (readonly number[])[] {
  const groups: { readonly indices: number[]; readonly shared: Set<string> }[] = [];
  bonds.forEach((own, index) => {
    const touched = groups.filter(({ shared }) => own.some((each) => shared.has(each)));
    const whole = {
      indices: [...touched.flatMap(({ indices }) => indices), index],
      shared: new Set([...own, ...touched.flatMap(({ shared }) => [...shared])]),
    };
    for (const each of touched) groups.splice(groups.indexOf(each), 1);
    groups.push(whole);
  });
  return groups
    .map(({ indices }) => indices.sort((left, right) => left - right))
    .sort(([left = 0], [right = 0]) => left - right);
}

/** The one file, or else the innermost folder that holds all of the files. */
function commonPlace(files: readonly string[]): string {
  const [first = "", ...rest] = [...new Set(files)].sort(compareText);
  if (rest.length === 0) return first;
  let folder = dirname(first);
  while (folder !== "." && !rest.every((each) => each.startsWith(`${folder}/`))) folder = dirname(folder);
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
