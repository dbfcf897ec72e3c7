import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { placeSchema, problemLists } from "./place.ts";

const effectSchema = z
  .enum(["compatible", "breaking", "not compared"])
  .describe("`not compared` if the compiler had to be ended; the reason says why.");

const exportDifferenceSchema = z
  .strictObject({
    entry: z.string().describe("The entry point: `.`, `./fp`, or the file that was named."),
    name: z.string(),
    kind: z.enum(["added", "removed", "changed"]),
    consumers: effectSchema.describe("The effect on code that uses the export."),
    implementers: effectSchema.describe(
      "The effect on code that implements it, or passes objects of the type.",
    ),
    before: z.string().nullable().describe("The declaration before; null if there was none."),
    now: z.string().nullable(),
    reasons: z.array(z.string()).describe("Why it is breaking, in the compiler's words."),
  })
  .meta({ id: "exportDifference" });

const exposedTypeSchema = z
  .strictObject({
    name: z.string(),
    of: z
      .string()
      .nullable()
      .describe("The outside package; null for a type of the project that no entry exports."),
    through: z.string().describe("The export that mentions it."),
    place: placeSchema,
    isNew: z.boolean().describe("Whether clients did not see it before."),
  })
  .meta({ id: "exposedType" });

/** What `sleeve exports --json` prints. */
export const exportsSchema = z
  .strictObject({
    name: z.string().nullable().describe("The project's package name."),
    before: z.string().nullable().describe("The version compared with; null without one, or with --record."),
    now: z.string().nullable(),
    exports: z.int().min(0).describe("Number of exports of all entry points."),
    differences: z.array(exportDifferenceSchema),
    exposed: z
      .array(exposedTypeSchema)
      .describe("Types that clients see although no entry point exports them."),
    isBreaking: z.boolean(),
    isRecorded: z.boolean(),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve exports --json`" });

/** The file `sleeve.exports.json`. */
export const exportsRecordSchema = z
  .strictObject({
    name: z.string().nullable(),
    version: z.string().nullable(),
    entries: z.record(z.string(), z.string()).describe("The declaration file of each entry point."),
    files: z
      .record(z.string(), z.string())
      .describe("The texts of the declaration files, and of the manifest by which the compiler reads them."),
  })
  .meta({ title: "The file `sleeve.exports.json`, written by `sleeve exports --record`" });

/** The declarations of a project's entry points. */
export type ExportsRecord = DocumentOf<typeof exportsRecordSchema>;

/** How one export differs. */
export type ExportDifference = DocumentOf<typeof exportDifferenceSchema>;

/** A type that clients see although no entry point exports it. */
export type ExposedType = DocumentOf<typeof exposedTypeSchema>;

/** The result of comparing a project's exports. */
export type ComparedExports = Omit<DocumentOf<typeof exportsSchema>, "problems" | "notes" | "isRecorded">;
