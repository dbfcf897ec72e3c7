import { z } from "zod";
import type { Format } from "./find-components.ts";

const rangesSchema = z.array(z.tuple([z.int().min(0), z.int().min(0)]));

const templateSchema = z.strictObject({
  code: z.string(),
  parts: z.array(z.tuple([z.int(), z.int(), z.int()])),
  skipped: z.array(z.string()),
});

const modulesSchema = z.strictObject({
  modules: z.array(rangesSchema),
  template: templateSchema.optional(),
});

/** The scripts of each file, by the module that they belong to, and the code of its template. */
export const scriptsSchema = z.array(z.union([modulesSchema, z.strictObject({ failure: z.string() })]));

/** Ranges of a file's text. */
export type Ranges = readonly (readonly [start: number, end: number])[];

/** The scripts of one component. */
export interface ComponentModules {
  readonly modules: readonly Ranges[];
  /** Expressions of the template, in the scope of the first module. */
  readonly template?:
    | {
        readonly code: string;
        readonly parts: readonly (readonly [from: number, to: number, length: number])[];
        readonly skipped: readonly string[];
      }
    | undefined;
}

/** What the process that finds scripts reads and writes. */
export interface ScriptsTask {
  readonly files: readonly {
    readonly path: string;
    readonly format: Format;
    readonly compiler: string;
    /** Whether the compiler sees it as TypeScript. */
    readonly isTyped: boolean;
  }[];
}

export type FoundScripts = readonly (ComponentModules | { readonly failure: string })[];

/** Returns a text with everything outside some ranges blank, so that positions stay the same. */
export function blankOutside(text: string, ranges: Ranges): string {
  const blank = (part: string) => part.replace(/[^\r\n]/g, " ");
  let script = "";
  let at = 0;
  for (const [start, end] of inOrder(ranges)) {
    script += `${blank(text.slice(at, start))}${text.slice(start, end)}`;
    at = end;
  }
  return `${script}${blank(text.slice(at))}`;
}

export function inOrder(ranges: Ranges): Ranges {
  return [...ranges].sort(([left], [right]) => left - right);
}
