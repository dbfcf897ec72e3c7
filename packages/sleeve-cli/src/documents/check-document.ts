import { z } from "zod";
import { type CheckFindingName, FINDINGS } from "../findings.ts";
import type { DocumentOf } from "./document.ts";
import { exportSchema, placeSchema, problemLists } from "./place.ts";

const findingNameSchema = z.enum(Object.keys(FINDINGS) as [CheckFindingName, ...CheckFindingName[]]);

const unratedFindingSchema = z.strictObject({
  name: findingNameSchema,
  member: z.string().nullable().describe("The member of the target; null if it belongs to none."),
  place: placeSchema,
  expected: z.string(),
  found: z.string(),
  remedy: z.string(),
});

const findingSchema = unratedFindingSchema
  .extend({
    severity: z.enum(["error", "warning"]),
    suppressed: z
      .string()
      .nullable()
      .describe("Reason of the suppression; a suppressed finding does not fail the check."),
  })
  .meta({ id: "finding" });

const memberSchema = z.strictObject({
  member: z.string(),
  place: placeSchema,
  findings: z.array(findingSchema),
});

const wrapperSchema = z
  .strictObject({
    target: exportSchema,
    wrapper: exportSchema,
    place: placeSchema,
    members: z.array(memberSchema).describe("The members of the target, in order."),
    findings: z.array(findingSchema).describe("Findings that do not belong to one member of the target."),
    conforms: z.boolean(),
  })
  .meta({ id: "wrapper" });

const borderSchema = z
  .strictObject({
    package: z.string().describe("The package, or the target or facade whose imports were checked."),
    files: z.array(z.string()).describe("The files that may import it."),
    findings: z.array(findingSchema),
    debt: z
      .array(z.strictObject({ name: z.string(), reason: z.string() }))
      .describe("Outside types and values that the config accepts beyond the border."),
    holds: z.boolean(),
  })
  .meta({ id: "border" });

/** What `sleeve check --json` prints. */
export const checkSchema = z
  .strictObject({
    conforms: z.boolean().describe("Whether no finding is an error without a suppression."),
    wrappers: z.array(wrapperSchema),
    borders: z.array(borderSchema),
    imports: z.array(findingSchema).describe("Imports for which no border can be checked."),
    generated: z
      .array(findingSchema)
      .describe("Generated files that are not what their commands write now. With --changed: none."),
    config: z.array(findingSchema).describe("Names in the config that match nothing. With --changed: none."),
    changedFiles: z
      .int()
      .min(0)
      .nullable()
      .describe("With --changed: the number of files of the project that were checked. Otherwise null."),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve check --json`" });

const recordedFindingSchema = z.strictObject({
  finding: findingNameSchema,
  in: z.string().describe("The file, relative to the project's folder."),
  member: z.string().nullable(),
  count: z.int().min(1).describe("As many findings of this kind, file and member do not fail."),
});

/** The file `sleeve.findings.json`. */
export const recordedFindingsSchema = z
  .strictObject({ findings: z.array(recordedFindingSchema) })
  .meta({ title: "The file `sleeve.findings.json`, written by `sleeve check --record`" });

/** One finding: the place, what was expected, what was found, and a remedy. */
export type Finding = DocumentOf<typeof unratedFindingSchema>;

/** A finding with its severity and suppression from the config. */
export type RatedFinding = DocumentOf<typeof findingSchema>;

/** The result of a check, by wrapper and border. */
export type CheckResult = Omit<DocumentOf<typeof checkSchema>, "problems" | "notes">;

/** The result for one member of a target. */
export type MemberResult<Found extends Finding = RatedFinding> = WithFindings<
  DocumentOf<typeof memberSchema>,
  Found
>;

/** The result for one wrapper. */
export type WrapperResult<Found extends Finding = RatedFinding> = Omit<
  WithFindings<DocumentOf<typeof wrapperSchema>, Found>,
  "members"
> & { readonly members: readonly MemberResult<Found>[] };

/** The result for one border. */
export type BorderResult<Found extends Finding = RatedFinding> = WithFindings<
  DocumentOf<typeof borderSchema>,
  Found
>;

type WithFindings<Result, Found> = Omit<Result, "findings"> & { readonly findings: readonly Found[] };

/** Recorded findings. As many of each kind, file and member do not fail. */
export type RecordedFinding = DocumentOf<typeof recordedFindingSchema>;
