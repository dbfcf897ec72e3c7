/**
 * Generated cases rotate: each commit runs another tenth of them, so that ten commits in a row run all. `SLEEVE_CORPUS=all` runs
 * all at once, and `SLEEVE_SHARE` repeats the share that a run has printed.
 */

/** Whether all generated cases run. */
export const RUNS_ALL = process.env["SLEEVE_CORPUS"] === "all";

/** Number of the share that this run has, which `vitest.config.ts` sets. */
export const SHARE = Number(process.env["SLEEVE_SHARE"] ?? 0);

/** Whether a case is of the current share. Of fewer than ten cases, each run has one. */
export function isInShare(index: number, count: number): boolean {
  const shares = Math.min(10, count);
  return RUNS_ALL || index % shares === SHARE % shares;
}

/** Returns the cases of the current share. */
export function sampled<Case>(cases: readonly Case[]): readonly Case[] {
  return cases.filter((_, index) => isInShare(index, cases.length));
}
