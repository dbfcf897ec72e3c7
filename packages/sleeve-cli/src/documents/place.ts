import { z } from "zod";
import type { DocumentOf } from "./document.ts";

export const placeSchema = z
  .strictObject({
    file: z.string().min(1).describe("Relative to the project's folder, with forward slashes."),
    line: z.int().min(1).describe("Counted from 1."),
    column: z.int().min(1).describe("Counted from 1, in UTF-16 code units."),
  })
  .meta({ id: "place", description: "A position in a file." });

/** A position in a file. Lines and columns count from 1, columns in UTF-16 code units. */
export type Place = DocumentOf<typeof placeSchema>;

export const problemSchema = z
  .strictObject({
    code: z.string().regex(/^[A-Z_]+$/),
    message: z.string().describe("One sentence with the place and the next step."),
  })
  .meta({ id: "problem", description: "A problem that kept the command from doing all of its work." });

/** An export, as the config names it: `src/tides/tide-table.ts#TideTable`. */
export const exportSchema = z
  .string()
  .regex(/^.+#[^#]+$/)
  .meta({ id: "export", description: "An export, as the config names it: file#export." });

/** The two lists of every document. */
export const problemLists = {
  problems: z.array(problemSchema).describe("What kept the command from doing all of its work."),
  notes: z.array(problemSchema).describe("What is worth knowing; the command did all of its work."),
};
