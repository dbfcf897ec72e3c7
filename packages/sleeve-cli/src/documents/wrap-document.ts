import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { problemLists } from "./place.ts";
import { WRAP_KINDS } from "./wrap-kinds.ts";

const memberSchema = z.strictObject({ member: z.string(), why: z.string() });

const proposalSchema = z.strictObject({
  member: z.string(),
  uses: z
    .string()
    .optional()
    .describe(
      "The member of the adaptee, or the steps of an operation; none if the member has to be completed.",
    ),
  score: z
    .number()
    .min(0)
    .max(1)
    .describe("How good the proposal is. For an operation of a facade: 1 if it is complete, else 0."),
  why: z.string(),
  candidates: z
    .array(z.strictObject({ uses: z.string(), score: z.number(), why: z.string() }))
    .describe("All candidates, the best first, with what each needs or why it falls short."),
});

const wrapperSchema = z.strictObject({
  source: z.string().describe("The wrapped type, as it was named."),
  kind: z.enum(WRAP_KINDS),
  name: z.string().describe("The generated class or constant."),
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
  proposals: z
    .array(proposalSchema)
    .optional()
    .describe("What an adapter or a facade does for each member of its target."),
  refused: z.array(memberSchema).describe("Members that the file lacks, with the reasons."),
});

/** What `sleeve wrap --json` prints. */
export const wrapSchema = z
  .strictObject({
    wrappers: z.array(wrapperSchema),
    skipped: z
      .array(z.strictObject({ type: z.string(), hasMembers: z.boolean(), why: z.string() }))
      .describe("Types of a module that cannot be wrapped, with the reasons. Many have no members."),
    isWritten: z.boolean().describe("Whether new and stale files were written."),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve wrap --json`" });

/** A generated file, and what it is to the file on disk. */
export type WrapperFile = DocumentOf<typeof wrapperSchema>;

/** The wrappers of one type, or of all types of a module. */
export type WrapResult = Omit<DocumentOf<typeof wrapSchema>, "problems" | "notes" | "isWritten">;
