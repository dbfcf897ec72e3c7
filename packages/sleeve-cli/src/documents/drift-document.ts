import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { placeSchema, problemLists } from "./place.ts";

const differenceSchema = z.strictObject({
  kind: z.enum([
    "removed",
    "renamed",
    "kind",
    "parameter added",
    "parameter changed",
    "parameter removed",
    "result",
    "async",
    "type",
    "optional",
    "readonly",
    "entry point",
    "types",
    "deprecated",
    "other",
  ]),
  subject: z.string().describe("A member, an export, or a specifier: `TugRoster.sendTo`."),
  before: z.string(),
  now: z.string(),
  likelyName: z.string().exactOptional().describe("The probable new name."),
});

const assessedDifferenceSchema = differenceSchema.extend({
  isBreaking: z.boolean().describe("Whether the compiler rejects the project's use of it."),
  errors: z
    .array(z.strictObject({ place: placeSchema, text: z.string() }))
    .describe("The compiler's errors, at places in the project."),
  places: z.array(placeSchema).describe("The project's uses of it."),
});

const moduleDriftSchema = z.strictObject({
  module: z.string(),
  recorded: z.string().nullable().describe("The recorded version."),
  now: z.string().nullable().describe("The current version."),
  differences: z.array(assessedDifferenceSchema),
  isBreaking: z.boolean(),
});

/** What `sleeve drift --json` prints. */
export const driftSchema = z
  .strictObject({
    drifts: z.array(moduleDriftSchema).describe("Empty with --record."),
    recorded: z
      .array(z.strictObject({ module: z.string(), version: z.string().nullable() }))
      .nullable()
      .describe("With --record: the recorded modules. Otherwise null."),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve drift --json`" });

/** One difference between an outside module and its record. */
export type Difference = DocumentOf<typeof differenceSchema>;

export type DifferenceKind = Difference["kind"];

/** A difference with its effect on the project. */
export type AssessedDifference = DocumentOf<typeof assessedDifferenceSchema>;

/** How a module differs from its record. */
export type Drift = DocumentOf<typeof moduleDriftSchema>;
