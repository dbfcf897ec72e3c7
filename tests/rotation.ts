/**
 * Generated cases rotate: each commit runs another tenth of them, so that ten commits in a row run all. `SLEEVE_CORPUS=all` runs
 * all at once, and `SLEEVE_SHARE` repeats the share that a run has printed.
 */

/** Whether all generated cases run. */
export const RUNS_ALL = process.env["SLEEVE_CORPUS"] === "all";

/** Number of the share that this run has, which `vitest.config.ts` sets. */
export const SHARE = Number(process.env["SLEEVE_SHARE"] ?? 0);

/** Whether a case is of the current share, of so many shares. At most ten, so that ten commits run all. */
export function isInShare(index: number, shares: 2 | 3 | 4 | 5 | 6 | 7 | 8 | 9 | 10): boolean {
  return RUNS_ALL || index % shares === SHARE % shares;
}

/** Returns the cases of the current share. */
export function sampled<Case>(
  cases: readonly Case[],
  shares: Parameters<typeof isInShare>[1],
): readonly Case[] {
  return cases.filter((_, index) => isInShare(index, shares));
}
