import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { exportSchema, placeSchema, problemLists } from "./place.ts";

const movedCallerSchema = z.strictObject({
  file: z.string(),
  imports: z.int().min(0).describe("Number of imports that now use the adapter."),
  references: z.int().min(0).describe("Number of rewritten references."),
  diff: z.string().describe("The changes, as a unified diff."),
});

/** What `sleeve move --json` prints. */
export const moveSchema = z
  .strictObject({
    outside: z.string(),
    adapter: exportSchema,
    names: z.enum(["same", "new"]).describe("Whether callers keep the outside names."),
    files: z.array(movedCallerSchema),
    stays: z
      .array(z.strictObject({ place: placeSchema, why: z.string() }))
      .describe("Imports and references that stay, and why."),
    mentions: z
      .array(placeSchema)
      .describe("Places that name the module in a string, such as a mock in a test; they are not moved."),
    isWritten: z.boolean().describe("Whether the files were written."),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve move --json`" });

/** The result of moving the callers of an outside module. */
export type Move = Omit<DocumentOf<typeof moveSchema>, "problems" | "notes" | "isWritten">;

/** One file whose imports would use the adapter. */
