import { z } from "zod";
import { runProgram } from "../../project/child-processes/run-program.ts";
import type { Outline } from "../outline/model.ts";
import type { DraftedExample } from "./examples.ts";

/** What a call did. */
export type CallOutcome =
  | { readonly kind: "returned" }
  | { readonly kind: "threw"; readonly error: string; readonly isBuiltIn: boolean; readonly message: string };

/** What an example did when it was run against the outside module. */
export type ExampleOutcome = CallOutcome | { readonly kind: "not run"; readonly why: string };

/** What the process that runs examples writes: the outcome of one, or why the module cannot be loaded. */
export type ExampleResult =
  | { readonly index: number; readonly outcome: CallOutcome }
  | { readonly unloaded: string };

const outcomeSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("returned") }),
  z.strictObject({
    kind: z.literal("threw"),
    error: z.string(),
    isBuiltIn: z.boolean(),
    message: z.string(),
  }),
]);

const resultSchema: z.ZodType<ExampleResult> = z.union([
  z.strictObject({ index: z.int().min(0), outcome: outcomeSchema }),
  z.strictObject({ unloaded: z.string() }),
]);

/** What the process that runs examples reads. */
export interface ExamplesTask {
  readonly object: string;
  /** Deadline of one promise, in milliseconds. */
  readonly timeout: number;
  /** URLs or names of the modules, from the folder of the project. */
  readonly specifiers: readonly string[];
  readonly folder: string;
  readonly members: readonly {
    readonly specifier: string;
    readonly name: string;
    readonly member: string;
    /** Name of the factory, if the export is a class. */
    readonly makes: string | undefined;
    /** The member of the export that the member is. Default: the export itself. */
    readonly property: string | undefined;
  }[];
  /** Source of each call. */
  readonly calls: readonly string[];
}

/** Deadline of one promise, in milliseconds. */
const EXAMPLE_TIMEOUT = 2_000;
/** Processor time of one process, in milliseconds. */
const PROCESSOR_TIME = 10_000;

/** Maximum number of processes, because an example may end its own or never return. */
const MAX_PROCESSES = 4;

/**
 * Runs examples against an outside module itself, in a process of its own that is ended after 10 seconds of processor
 * time. Nothing that the module prints is shown.
 *
 * @param folder folder from which the module is resolved
 */
export function runExamples(
  outline: Outline,
  examples: readonly DraftedExample[],
  folder: string,
): ReadonlyMap<DraftedExample, ExampleOutcome> {
  const outcomes = new Map<DraftedExample, ExampleOutcome>();
  let open = examples;
  for (let count = 1; open.length > 0; count++) {
    const { results, failure = "it ends the process" } = runProgram({
      program: "./example-process.js",
      input: taskOf(outline, open, folder),
      result: resultSchema,
      folder,
      processorTime: PROCESSOR_TIME,
    });
    let unloaded: string | undefined;
    for (const result of results) {
      if ("unloaded" in result) unloaded = result.unloaded;
      else {
        const example = open[result.index];
        if (example) outcomes.set(example, result.outcome);
      }
    }
    open = open.filter((example) => !outcomes.has(example));
    // The next one is the example that ended the process.
    const isLast = unloaded !== undefined || count === MAX_PROCESSES;
    for (const example of isLast ? open : open.slice(0, 1))
      outcomes.set(example, { kind: "not run", why: unloaded ?? failure });
    open = open.filter((example) => !outcomes.has(example));
  }
  return outcomes;
}

function taskOf(
  { object, members }: Outline,
  examples: readonly DraftedExample[],
  folder: string,
): ExamplesTask {
  const values = members.filter(({ form }) => form !== "type");
  return {
    object,
    timeout: EXAMPLE_TIMEOUT,
    folder,
    specifiers: [...new Set(values.map(({ specifier }) => specifier))],
    members: values
      .filter(({ implementation }) => implementation?.kind !== "guard")
      .map(({ specifier, export: name, member, form, factory, implementation }) => ({
        specifier,
        name,
        member,
        makes: form === "factory" || implementation?.kind === "construct" ? member : factory?.member,
        property: implementation?.property,
      })),
    calls: examples.map(({ call }) => call),
  };
}
