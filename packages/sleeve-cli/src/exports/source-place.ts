import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { ExposedType } from "../documents/exports-document.ts";
import type { Place } from "../documents/place.ts";
import { Lines } from "../place.ts";

/** Returns the place of a type in the source that a declaration was compiled from, where there is one. */
export function sourcePlaceOf(root: string, { name, place }: Omit<ExposedType, "isNew">): Place {
  const [path] = ["ts", "tsx", "mts", "cts"]
    .map((ending) => place.file.replace(/\.d\.[cm]?ts$/, `.${ending}`))
    .filter((file) => existsSync(join(root, file)));
  if (path === undefined) return place;
  const text = readFileSync(join(root, path), "utf8");
  const offset = text.search(new RegExp(`(?<![\\w$])${name.replaceAll("$", "\\$")}(?![\\w$])`));
  return offset < 0 ? place : { file: path, ...new Lines(text).at(offset) };
}
