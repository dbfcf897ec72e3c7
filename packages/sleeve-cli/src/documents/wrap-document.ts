import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { problemSchema } from "./place.ts";

const memberSchema = z.strictObject({ member: z.string(), why: z.string() });

/** What `sleeve wrap --json` prints. */
export const wrapSchema = z
  .strictObject({
    source: z.string().describe("The wrapped type, as it was named."),
    kind: z.enum(["forwarder"]),
    name: z.string().describe("The generated class."),
    file: z.string(),
    state: z
      .enum(["new", "the same", "stale", "edited", "kept"])
      .describe(
        "`stale`: the type has changed since. `edited`: the file was edited manually. `kept`: the file was not generated. The last two are never overwritten.",
      ),
    text: z.string(),
    diff: z
      .string()
      .describe("The difference between the file and what would be written; empty for a new file."),
    members: z.int().min(0).describe("Number of members that the file has."),
    readAsFunctions: z
      .array(memberSchema)
      .describe("Methods that are accessors, because their types cannot be written as a method's."),
    refused: z.array(memberSchema).describe("Members that the file lacks, with the reasons."),
    isWritten: z.boolean(),
    problems: z.array(problemSchema),
  })
  .meta({ title: "Output of `sleeve wrap --json`" });

/** A generated file, and what it is to the file on disk. */
export type WrapResult = Omit<DocumentOf<typeof wrapSchema>, "problems" | "isWritten">;
