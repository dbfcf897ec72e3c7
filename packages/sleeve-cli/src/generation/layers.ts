import { CliError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";

/** The layers that can be generated, with what each does. */
export const LAYERS = {
  logging: "Logs each call, and how it ended.",
  timing: "Measures how long calls take.",
  access: "Decides each use of a member. Only `true` allows one.",
  guard: "Checks arguments and written values, by member.",
  cached: "Keeps results.",
  retrying: "Calls again if a promise rejects.",
  limited: "Limits how long a promise takes.",
} as const;

export type LayerName = keyof typeof LAYERS;

/** A layer of a generated class. */
export interface WantedLayer {
  readonly name: LayerName;
  /** The members that it applies to. Default: all. */
  readonly only: readonly string[] | undefined;
}

/** The layers of a generated class, the outermost first. */
export interface WantedLayers {
  readonly layers: readonly WantedLayer[];
  /** Members that clear what `cached` keeps. */
  readonly clearing: readonly string[];
  /** Whether the file may not import the library. */
  readonly isStandalone: boolean;
  /** Whether a layer that applies to no member is left out, instead of being an error. */
  readonly isLenient?: boolean;
}

/**
 * Reads layers as the user writes them: `logging`, `cached:heightAt,nextTide`.
 *
 * @throws {CliError} `BAD_OPTION`
 */
export function layersIn(texts: readonly string[]): readonly WantedLayer[] {
  const layers = texts.map((text): WantedLayer => {
    const [, name = "", members] = /^([^:]*)(?::(.*))?$/s.exec(text) ?? [];
    if (!isLayer(name)) {
      const meant = nearestName(name, Object.keys(LAYERS));
      throw new CliError(
        "BAD_OPTION",
        `--layer ${text} names no layer.${meant ? ` Did you mean ${meant}?` : ""} There are: ${Object.keys(LAYERS).join(", ")}.`,
      );
    }
    const memberNames = members?.split(",").filter((member) => member !== "");
    if (memberNames?.length === 0)
      throw new CliError("BAD_OPTION", `--layer ${text} names no member. Write ${name}:member, or ${name}.`);
    return { name, only: memberNames };
  });
  const twice = layers.find(({ name }, index) => layers.findIndex((layer) => layer.name === name) < index);
  if (twice)
    throw new CliError(
      "BAD_OPTION",
      `--layer ${twice.name} is given twice. Name all of its members in one, separated by commas.`,
    );
  return layers;
}

function isLayer(name: string): name is LayerName {
  return Object.hasOwn(LAYERS, name);
}
