import { host } from "../../host.ts";
import { REDACTED } from "../../layers/redact.ts";
import { type Check, check } from "../check.ts";
import type { Context } from "../context.ts";
import type { Finding } from "../finding.ts";
import {
  type Factory,
  type Implementation,
  lend,
  untyped,
  type Waived,
  type Wrapper,
} from "../implementation.ts";
import { membersOf, type Operation } from "../operations.ts";
import type { PlayTerms } from "../play.ts";
import { decoded } from "../recordings/encode.ts";
import {
  type RecordedCall,
  readRecording,
  recordingOf,
  redactionOf,
  standInFrom,
} from "../recordings/recording.ts";
import { unfit } from "../schema.ts";
import { codeOfValue } from "../text.ts";
import { callOf } from "./trial.ts";

export interface StandInOptions<Target> {
  /** The text of the recording. */
  readonly recording: string;
  /** What was recorded, to see whether it still answers so. The contract's reference, unless given. */
  readonly subject?: Factory<Target> | Implementation<Target>;
  readonly waives?: Waived;
}

/**
 * An implementation that is a stand-in from a recording. The contract's examples, laws and refusals hold of it as of any other;
 * moreover what it answers has to be what its subject answers to the same calls, of the shape that the surface promises.
 */
export function standInOf<Target extends object>(options: StandInOptions<Target>): Wrapper<Target> {
  const { recording, subject, waives } = options;
  return {
    kind: "stand-in",
    ...(waives && { waives }),
    create: () => standInFrom<Target>(recording),
    checks: (context) => standInChecks(recording, subject && untyped(subject), context),
    // A stand-in has no subject that it could be made from anew, so that a change is put around it.
    altered: (change) => ({
      ...standInOf(options),
      create: () => change(standInFrom<Target>(recording)) as Target,
    }),
  };
}

function standInChecks(
  recording: string,
  subject: Implementation<object> | undefined,
  context: Context<object>,
): readonly Check[] {
  const { reference } = context.contract;
  const real = subject ?? (reference && untyped(reference));
  return [
    check("holds calls that its target has, with answers of their shape", async () =>
      shapeFindings(recording, context),
    ),
    ...(real
      ? [check("answers as its subject does today", () => taleFindings(recording, real, context))]
      : []),
  ];
}

function shapeFindings(recording: string, { contract: { surface } }: Context<object>): readonly Finding[] {
  if (!surface) return [];
  const members = new Map(membersOf(surface, {}).map(({ key, results }) => [String(key), results]));
  return readRecording(recording).calls.flatMap(({ member, status, value }): Finding[] => {
    const results = members.get(member);
    if (!results) {
      const remedy = "Record it anew, through the target.";
      return [
        {
          name: "untrue",
          place: member,
          expected: "a member of the target",
          found: "none of this name",
          remedy,
        },
      ];
    }
    if (results.length === 0 || status === "threw" || status === "rejected") return [];
    const reasons = results.map((schema) => unfit(decoded(value), schema.promise ?? schema));
    if (reasons.includes(undefined)) return [];
    const remedy = "Record it anew.";
    return [
      {
        name: "untrue",
        place: member,
        expected: "an answer as the surface tells it",
        found: String(reasons[0]),
        remedy,
      },
    ];
  });
}

/** Makes the recorded calls on the subject, in their order, and compares what it says with what was recorded. */
async function taleFindings(
  recording: string,
  subject: Implementation<object>,
  terms: PlayTerms,
): Promise<{ readonly findings: readonly Finding[]; readonly notes: readonly string[] }> {
  const { calls, redacted } = readRecording(recording);
  // What was blotted out cannot be asked for again.
  const repeatable = calls.filter(({ args }) => !JSON.stringify(args).includes(REDACTED));
  const notes =
    repeatable.length < calls.length
      ? [`${calls.length - repeatable.length} calls with secrets in their arguments were not made again.`]
      : [];
  const now = await lend(subject, async (real) => {
    const again = recordingOf("again", redactionOf(redacted));
    const taped = again.of(real);
    const made = () => readRecording(again.toText()).calls;
    for (const [index, { use, member, args, callbacks }] of repeatable.entries()) {
      const value = Reflect.get(taped, member) as unknown;
      if (use === "read" || typeof value !== "function") continue;
      const operation = { use: "call", key: member, label: member } as Operation;
      await callOf(taped, operation, args.map(decoded), terms).outcome;
      // The next call may be one that ends them.
      for (
        let waited = 0;
        waited < terms.deadline && (made()[index]?.callbacks.length ?? 0) < callbacks.length;
        waited += PAUSE
      )
        await new Promise<void>((resolve) => host.setTimeout?.(resolve, PAUSE));
    }
    return made();
  });
  const findings = repeatable.flatMap((call, index): Finding[] => {
    const other = now[index];
    if (other && told(call) === told(other)) return [];
    return [
      {
        name: "untrue",
        place: call.member,
        expected: other ? toldText(other) : "an end",
        found: `recorded: ${toldText(call)}`,
        remedy: "Record it anew: the subject answers otherwise by now.",
      },
    ];
  });
  return { findings, notes };
}

/** So long it is waited between two looks at what callbacks were told, in milliseconds. */
const PAUSE = 10;

function told({ use, member, status, value, callbacks }: RecordedCall): string {
  return JSON.stringify([use, member, status, value, callbacks]);
}

function toldText({ status, value, callbacks }: RecordedCall): string {
  const told = callbacks.map(
    ({ args }) => `, and a callback told ${args.map((each) => codeOfValue(decoded(each))).join(", ")}`,
  );
  return `${status} ${codeOfValue(decoded(value))}${told.join("")}`;
}
