import { layer } from "../layers/layer.ts";
import { succeeded } from "../shared/outcome.ts";
import { decorate } from "../wrappers/decorate.ts";
import type { Operation } from "./sequences/operations.ts";
import type { SequenceResult } from "./sequences/sequence-run.ts";
import { asGenerated, type Step } from "./sequences/steps.ts";
import { isSurfaceDocument, type SignatureDocument } from "./surface-document.ts";
import type { Contract } from "./types.ts";
import { CallbackValue } from "./values/arbitraries.ts";
import { schemaText, schemaViolation } from "./values/schema.ts";

/** Which parts of a target a run exercised. */
export interface CoverageReport {
  readonly members: readonly MemberCoverage[];
  /** Names of error classes in the contract that no call failed with. */
  readonly errorsNotSeen: readonly string[];
  /** Names of refusals in the contract that were never tried. */
  readonly refusalsNotTried: readonly string[];
  /** Whether everything was exercised. */
  readonly isComplete: boolean;
}

export interface MemberCoverage {
  readonly member: string;
  /** Number of calls, or of reads of a property. */
  readonly uses: number;
  /** Number of failed calls. */
  readonly failures: number;
  /** Signatures of an overloaded member that no call matched. */
  readonly overloadsNotCalled: readonly string[];
}

interface Counts {
  uses: number;
  failures: number;
  readonly overloads: readonly { readonly signature: SignatureDocument; calls: number }[];
}

/** Counts which parts of a target are exercised. */
export class Coverage {
  readonly #contract: Pick<Contract<never>, "surface" | "errors" | "refusals">;
  readonly #members = new Map<string, Counts>();
  readonly #errors = new Set<string>();
  readonly #refusals = new Set<string>();

  constructor(contract: Pick<Contract<never>, "surface" | "errors" | "refusals">) {
    this.#contract = contract;
    const { surface } = contract;
    if (!surface) return;
    const names = isSurfaceDocument(surface)
      ? Object.keys(surface.members)
      : Reflect.ownKeys(surface).map(String);
    for (const name of names) this.#countsOf(name);
  }

  /** Adds members that are not in a surface and must be exercised too. */
  expect(operations: readonly Operation[]): void {
    for (const { label } of operations) this.#countsOf(label);
  }

  note(member: string, args: readonly unknown[], error: { readonly error: unknown } | undefined): void {
    const counts = this.#countsOf(member);
    counts.uses += 1;
    if (counts.overloads.length > 0) {
      const overload = counts.overloads.find(({ signature }) => fits(args, signature));
      if (overload) overload.calls += 1;
    }
    if (!error) return;
    counts.failures += 1;
    for (const errorClass of this.#contract.errors ?? [])
      if (error.error instanceof errorClass) this.#errors.add(errorClass.name);
  }

  notePlayed(steps: readonly Step[], { outcomes }: SequenceResult): void {
    for (let at = 0; at < outcomes.length; at += 1) {
      const { status, raw } = outcomes[at] as SequenceResult["outcomes"][number];
      const { operation, args } = steps[at] as Step;
      const failed = status === "threw" || status === "rejected" ? { error: raw } : undefined;
      const input = operation.results.length > 1 ? args.map(asGenerated) : args;
      this.note(operation.label, input, failed);
    }
  }

  noteRefusal(name: string): void {
    this.#refusals.add(name);
  }

  /** Returns the implementation with its use counted. */
  of<Target extends object>(implementation: Target): Target {
    const counting = layer<Target>("counting", {
      watch:
        ({ label }) =>
        ({ args }) =>
        (outcome) =>
          this.note(label, args, succeeded(outcome) ? undefined : outcome),
      read:
        (next, { label }) =>
        (call) => {
          const value = next(call);
          if (typeof value !== "function") this.note(label, [], undefined);
          return value;
        },
    });
    return decorate(implementation, counting);
  }

  report(): CoverageReport {
    const members = [...this.#members].map(([member, { uses, failures, overloads }]) => ({
      member,
      uses,
      failures,
      overloadsNotCalled: overloads
        .filter(({ calls }) => calls === 0)
        .map(({ signature }) => signatureText(member, signature)),
    }));
    const { errors = [], refusals } = this.#contract;
    const errorsNotSeen = errors.map(({ name }) => name).filter((name) => !this.#errors.has(name));
    const refusalsNotTried = Object.keys(refusals).filter((key) => !this.#refusals.has(key));
    const isComplete =
      members.every(({ uses, overloadsNotCalled }) => uses > 0 && overloadsNotCalled.length === 0) &&
      errorsNotSeen.length + refusalsNotTried.length === 0;
    return { members, errorsNotSeen, refusalsNotTried, isComplete };
  }

  #countsOf(member: string): Counts {
    const cached = this.#members.get(member);
    if (cached) return cached;
    const { surface } = this.#contract;
    const signatures =
      surface && isSurfaceDocument(surface) ? surface.members[member]?.signatures : undefined;
    const overloads = signatures && signatures.length > 1 ? signatures : [];
    const counts = {
      uses: 0,
      failures: 0,
      overloads: overloads.map((signature) => ({ signature, calls: 0 })),
    };
    this.#members.set(member, counts);
    return counts;
  }
}

/**
 * Counts which parts of a target your own tests exercise through their wrappers.
 *
 * @example
 * import { contract, coverageOf, coverageText } from "sleeve/conform";
 *
 * interface Bell { ring(): string }
 * const covered = coverageOf(contract<Bell>("Bell", { surface: { ring: "method" } }));
 * const bell = covered.of({ ring: () => "ding" });
 * bell.ring();
 * console.log(coverageText(covered.report()));
 */
export function coverageOf<Target extends object>(contract: Contract<Target>): Coverage {
  return new Coverage(contract);
}

function fits(args: readonly unknown[], { parameters }: SignatureDocument): boolean {
  const others = parameters.find((parameter) => parameter.rest);
  const needed = parameters.filter(({ optional, rest: isRest }) => !optional && !isRest).length;
  if (args.length < needed || (!others && args.length > parameters.length)) return false;
  return args.every((argument, index) => {
    const parameter = parameters[index] ?? others;
    if (!parameter || (argument === undefined && parameter.optional)) return true;
    const isCallback = typeof argument === "function" || argument instanceof CallbackValue;
    return isCallback
      ? parameter.schema.function === true
      : schemaViolation(argument, parameter.schema) === undefined;
  });
}

function signatureText(member: string, { parameters, result }: SignatureDocument): string {
  const list = parameters.map(
    ({ name, schema, optional, rest }) =>
      `${rest ? "..." : ""}${name}${optional ? "?" : ""}: ${schemaText(schema)}`,
  );
  return `${member}(${list.join(", ")}): ${schemaText(result)}`;
}

/** Formats what a run did not exercise; one line if it exercised everything. */
export function coverageText({
  members,
  errorsNotSeen,
  refusalsNotTried,
  isComplete,
}: CoverageReport): string {
  const usedCount = members.filter(({ uses }) => uses > 0).length;
  const head = `${usedCount} of ${members.length} members exercised`;
  if (isComplete) return `${head}, and every overload, error and refusal\n`;
  const lines = [
    ...members.filter(({ uses }) => uses === 0).map(({ member }) => `never used: ${member}`),
    ...members.flatMap(({ overloadsNotCalled }) => overloadsNotCalled.map((name) => `never called: ${name}`)),
    ...errorsNotSeen.map((outcome) => `never failed with: ${outcome}`),
    ...refusalsNotTried.map((probe) => `never tried: the refusal of ${probe}`),
  ];
  return [head, ...lines.map((line) => `  ${line}`), ""].join("\n");
}
