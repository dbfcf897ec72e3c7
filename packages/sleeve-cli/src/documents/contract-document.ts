import type { ConformanceReport, FaultReport, RecordingDocument } from "sleeve/conform";
import { z } from "zod";
import type { AssignableTo, DocumentOf } from "./document.ts";

const findingSchema = z
  .strictObject({
    name: z.string(),
    place: z.string(),
    expected: z.string(),
    found: z.string(),
    remedy: z.string(),
    code: z
      .string()
      .exactOptional()
      .describe("The shortest sequence of calls that shows it, as code for a test."),
  })
  .meta({ id: "finding" });

const checkSchema = z.strictObject({
  name: z.string(),
  findings: z.array(findingSchema),
  suppressed: z
    .array(z.strictObject({ finding: findingSchema, reason: z.string() }))
    .describe("Suppressed findings, each with the reason."),
  notes: z.array(z.string()).describe("What could not be checked, and why."),
});

const coverageSchema = z.strictObject({
  members: z.array(
    z.strictObject({
      member: z.string(),
      uses: z.int().min(0),
      failures: z.int().min(0),
      overloadsNotCalled: z.array(z.string()),
    }),
  ),
  errorsNotSeen: z.array(z.string()),
  refusalsNotTried: z.array(z.string()),
  isComplete: z.boolean(),
});

/** The result of `checkContract`. */
export const conformanceSchema = z
  .strictObject({
    contract: z.string(),
    seed: z.int(),
    implementations: z.array(
      z.strictObject({ name: z.string(), conforms: z.boolean(), checks: z.array(checkSchema) }),
    ),
    coverage: coverageSchema,
    conforms: z.boolean(),
  })
  .meta({ id: "conformance" });

const faultSchema = z.strictObject({
  fault: z.string(),
  member: z.string(),
  isDetected: z.boolean(),
  by: z.string().optional().describe("The check that detected the fault."),
  finding: z.string().optional().describe("The finding that detected the fault."),
  example: z.string().describe("The shortest sequence of calls that shows the fault, as code for a test."),
});

/** The result of `injectFaults`. */
export const faultsSchema = z
  .strictObject({
    contract: z.string(),
    implementation: z.string(),
    seed: z.int(),
    faults: z.array(faultSchema),
    detected: z.int().min(0),
    missed: z.int().min(0),
    unobservable: z.int().min(0).describe("Number of faults that changed nothing a client can observe."),
    failing: z.array(z.string()).describe("Checks that fail without any fault."),
  })
  .meta({ id: "faults" });

/** What `sleeve report` reads: one result, or a list of results. */
export const resultSchema = z
  .union([conformanceSchema, faultsSchema, z.array(z.union([conformanceSchema, faultsSchema]))])
  .meta({ title: "A result of `checkContract` or `injectFaults`, or a list of results" });

const valuesSchema = z.array(z.unknown()).describe("Values as JSON; see `value`.");

/** The text of a recording. */
export const recordingSchema = z
  .strictObject({
    format: z.literal("sleeve-recording"),
    version: z.literal(1),
    subject: z.string().describe("Name of the recorded subject."),
    redacted: z
      .strictObject({
        members: z.array(z.string()),
        paths: z.array(z.string()),
        values: z.array(z.string().regex(/^\/.*\/[a-z]*$/)),
      })
      .describe("What was redacted, besides names like secrets."),
    calls: z.array(
      z.strictObject({
        use: z.enum(["call", "read"]),
        member: z.string(),
        args: valuesSchema,
        status: z.enum(["returned", "threw", "resolved", "rejected"]),
        value: z
          .unknown()
          .describe(
            "The result or the error. A value that JSON cannot represent is an object with the keys `~`, its kind, and `is`, its content.",
          ),
        callbacks: z
          .array(z.strictObject({ argument: z.int().min(0), args: valuesSchema }))
          .describe("Calls of its callbacks: the index of the argument, and the arguments of the call."),
      }),
    ),
  })
  .meta({ title: "A recording, written by `recordingOf`" });

/** The result of `checkContract`. */
export type ConformanceDocument = DocumentOf<typeof conformanceSchema>;

/** One check of an implementation. */
export type CheckDocument = DocumentOf<typeof checkSchema>;

/** A finding of a contract. */
export type FindingDocument = DocumentOf<typeof findingSchema>;

/** Which parts of a target were exercised. */
export type CoverageDocument = DocumentOf<typeof coverageSchema>;

/** The result of `injectFaults`. */
export type FaultsDocument = DocumentOf<typeof faultsSchema>;

/** The result for one fault. */

/** One result. */
export type ResultDocument = ConformanceDocument | FaultsDocument;

/** Fails to compile if the library writes documents of another shape. */
export type LibraryAgrees = [
  AssignableTo<ConformanceDocument, ConformanceReport>,
  AssignableTo<FaultsDocument, FaultReport>,
  AssignableTo<DocumentOf<typeof recordingSchema>, RecordingDocument>,
];
