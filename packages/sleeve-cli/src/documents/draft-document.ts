import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { exportSchema, placeSchema, problemLists } from "./place.ts";

const draftFileSchema = z.strictObject({
  file: z.string(),
  role: z.enum(["target", "adapter", "outside types", "contract", "config", "compiler config"]),
  state: z
    .enum(["new", "added to", "the same", "kept"])
    .describe("`kept`: the file exists and differs, so it is left alone."),
  text: z.string(),
});

const manualStepSchema = z.strictObject({
  what: z.string(),
  why: z.string(),
  remedy: z.string(),
  places: z.array(placeSchema),
});

const count = () => z.int().min(0);

const qualitySchema = z
  .strictObject({
    members: z.strictObject({
      independent: count().describe("Target and callers compile where the outside module does not exist."),
      dependent: count().describe("The type of the member, or a caller, needs the outside module."),
      reexported: count(),
    }),
    asserted: count().describe("Number of members whose type the adapter asserts."),
    targetLines: count().describe("Number of lines of the target."),
    dependents: z
      .array(z.strictObject({ member: z.string(), why: z.string() }))
      .describe("The dependent members that the target declares."),
    elsewhere: z
      .array(z.string())
      .describe(
        "Errors without the outside module that come from no used member, such as a global that it declares.",
      ),
  })
  .describe("Number of used members by whether they are independent of the outside module.");

/** What `sleeve draft --json` prints. */
export const draftSchema = z
  .strictObject({
    outside: z.string(),
    target: exportSchema,
    adapter: exportSchema,
    names: z.union([z.literal("same"), z.record(z.string(), z.string())]),
    members: z.array(
      z.strictObject({
        member: z.string(),
        replaces: z.string().describe("The outside export, as the config names it."),
        form: z.string(),
      }),
    ),
    groups: z
      .array(z.strictObject({ interface: z.string(), usedIn: z.string(), members: z.array(z.string()) }))
      .describe("Interfaces that the target extends, if its uses form separate groups."),
    types: z.array(z.strictObject({ type: z.string(), replaces: z.string() })),
    quality: qualitySchema,
    debt: z
      .record(z.string(), z.string())
      .describe("Outside types and values that the target or the adapter aliases, with the reasons."),
    scenarios: z
      .strictObject({
        written: count(),
        isRun: z.boolean().describe("Whether they were run against the outside module."),
        leftOut: z.array(z.strictObject({ title: z.string(), why: z.string() })),
      })
      .nullable()
      .describe("Scenarios of the contract, and what has none; `null` if there is no contract."),
    manualSteps: z.array(manualStepSchema).describe("What cannot be drafted: where, why, and what to do."),
    since: z
      .strictObject({ added: z.array(z.string()), gone: z.array(z.string()) })
      .nullable()
      .describe("For an existing target: uses that it lacks, and members that are no longer used."),
    callers: z
      .strictObject({ files: z.int().min(0), references: z.int().min(0) })
      .describe("Number of files and references that would be moved."),
    files: z.array(draftFileSchema),
    configEntries: z.string().nullable().describe("Config entries that could not be added."),
    isWritten: z.boolean().describe("Whether the files were written."),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve draft --json`" });

/** The result of a draft, with the steps left to do manually. */
export type Draft = Omit<DocumentOf<typeof draftSchema>, "problems" | "notes" | "isWritten">;

/** One file of a draft. */
export type DraftFile = DocumentOf<typeof draftFileSchema>;

/** What cannot be drafted: where, why, and what to do. */
export type ManualStep = DocumentOf<typeof manualStepSchema>;
