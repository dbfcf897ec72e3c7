import { z } from "zod";
import type { DocumentOf } from "./document.ts";

/** The list of files in `.sleeve/run`, which makes a run definite. */
export const stagedFilesSchema = z.object({
  files: z.array(
    z.object({
      file: z.string(),
      before: z.string().nullable().describe("Digest of the content to be replaced; null if there is none."),
      after: z.string().describe("Digest of the new content."),
      mode: z.int(),
    }),
  ),
});

/** The list of files that a run is about to put in place. */
export type StagedFiles = DocumentOf<typeof stagedFilesSchema>;
