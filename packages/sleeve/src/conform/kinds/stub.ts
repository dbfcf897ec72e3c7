import { REDACTED } from "../../layers/core/secrets.ts";
import { host } from "../../shared/host.ts";
import { check } from "../checks/contract-checks.ts";
import type { Finding } from "../finding.ts";
import { untyped, withImplementation } from "../implementation.ts";
import { decoded } from "../recordings/encode.ts";
import { type RecordedItems, readAsRecorded } from "../recordings/recorded-iterator.ts";
import {
  type RecordedCall,
  readRecording,
  recordingOf,
  redactionOf,
  stubFrom,
} from "../recordings/recording.ts";
import { membersOf, type Operation } from "../sequences/operations.ts";
import type { PlayTerms } from "../sequences/sequence-run.ts";
import type { Context, ContractCheck, Factory, Implementation, Suppressions, Wrapper } from "../types.ts";
import { valueCode } from "../values/format.ts";
import { schemaViolation } from "../values/schema.ts";
import { callOf } from "./probe.ts";

export interface StubOptions<Target> {
  /** The recording, as text. */
  readonly recording: string;
  /**
   * Creates the recorded subject, to check that it still answers as recorded. Default: the contract's
   * reference.
   */
  readonly subject?: Factory<Target> | Implementation<Target>;
  readonly suppressions?: Suppressions;
}

/**
 * Declares an implementation to be a stub that answers from a recording. The contract's examples, laws and
 * refusals apply. Moreover, its results must match the surface and the current results of its subject.
 */
export function stubOf<Target extends object>(options: StubOptions<Target>): Wrapper<Target> {
  const { recording, subject, suppressions } = options;
  return {
    kind: "stub",
    ...(suppressions && { suppressions }),
    create: () => stubFrom<Target>(recording),
    checks: (context) => stubChecks(recording, subject && untyped(subject), context),
    // A stub has no subject to create it from, so a change is applied around it.
    altered: (change) => ({
      ...stubOf(options),
      create: () => change(stubFrom<Target>(recording)) as Target,
    }),
  };
}

function stubChecks(
  recording: string,
  subject: Implementation<object> | undefined,
  context: Context<object>,
): readonly ContractCheck[] {
  const { reference } = context.contract;
  const real = subject ?? (reference && untyped(reference));
  return [
    check("holds calls of its target's members, with results that match the surface", async () =>
      shapeFindings(recording, context),
    ),
    ...(real
      ? [check("answers as its subject does today", () => staleFindings(recording, real, context))]
      : []),
  ];
}

function shapeFindings(recording: string, { contract: { surface } }: Context<object>): readonly Finding[] {
  if (!surface) return [];
  const members = new Map(membersOf(surface, {}).map(({ key, results }) => [String(key), results]));
  return readRecording(recording).calls.flatMap(({ member, status, value }): Finding[] => {
    const results = members.get(member);
    if (!results) {
      const remedy = "Record it again, through the target.";
      return [
        {
          name: "outdated",
          place: member,
          expected: "a member of the target",
          found: "no member of this name",
          remedy,
        },
      ];
    }
    if (results.length === 0 || status === "threw" || status === "rejected") return [];
    const reasons = results.map((schema) => schemaViolation(decoded(value), schema.promise ?? schema));
    if (reasons.includes(undefined)) return [];
    const remedy = "Record it again.";
    return [
      {
        name: "outdated",
        place: member,
        expected: "a result that matches the surface",
        found: String(reasons[0]),
        remedy,
      },
    ];
  });
}

/** Repeats the recorded calls on the subject, in order, and compares the results with the recording. */
async function staleFindings(
  recording: string,
  subject: Implementation<object>,
  terms: PlayTerms,
): Promise<{ readonly findings: readonly Finding[]; readonly notes: readonly string[] }> {
  const { calls, redacted } = readRecording(recording);
  // Redacted arguments cannot be sent again.
  const repeatable = calls.filter(({ args }) => !JSON.stringify(args).includes(REDACTED));
  const notes =
    repeatable.length < calls.length
      ? [`${calls.length - repeatable.length} calls with redacted arguments were not repeated.`]
      : [];
  const now = await withImplementation(subject, async (real) => {
    const again = recordingOf("again", redactionOf(redacted));
    const taped = again.of(real);
    const instance = () => readRecording(again.toText()).calls;
    for (const [index, { use, member, args, value: recorded, callbacks }] of repeatable.entries()) {
      const value = Reflect.get(taped, member) as unknown;
      if (use === "read" || typeof value !== "function") continue;
      const operation = { use: "call", key: member, label: member } as Operation;
      const { raw } = await callOf(taped, operation, args.map(decoded), terms).outcome;
      await readAsRecorded(raw, recorded);
      // The next call may be the one that ends this one.
      for (
        let waited = 0;
        waited < terms.timeout && (instance()[index]?.callbacks.length ?? 0) < callbacks.length;
        waited += PAUSE
      )
        await new Promise<void>((resolve) => host.setTimeout?.(resolve, PAUSE));
    }
    return instance();
  });
  const findings = repeatable.flatMap((call, index): Finding[] => {
    const current = now[index];
    if (current && serialize(call) === serialize(current)) return [];
    return [
      {
        name: "outdated",
        place: call.member,
        expected: current ? serializedText(current) : "an end",
        found: `recorded: ${serializedText(call)}`,
        remedy: "Record it again: the subject's answer has changed.",
      },
    ];
  });
  return { findings, notes };
}

/** Interval of checks for callback calls, in milliseconds. */
const PAUSE = 10;

function serialize({ use, member, status, value, callbacks }: RecordedCall): string {
  return JSON.stringify([use, member, status, value, callbacks]);
}

function serializedText({ status, value, callbacks }: RecordedCall): string {
  const callbackTexts = callbacks.map(
    ({ args }) =>
      `, and a callback called with ${args.map((argument) => valueCode(decoded(argument))).join(", ")}`,
  );
  const { "~": kind, is } = (value ?? {}) as { readonly "~"?: unknown; readonly is?: RecordedItems };
  const isIterator = kind === "generator" || kind === "async generator";
  const text =
    isIterator && is ? `an iterator of ${valueCode(is.items.map(decoded))}` : valueCode(decoded(value));
  return `${status} ${text}${callbackTexts.join("")}`;
}
