import { CHANGES } from "./conversions.ts";
import type { Candidate, RejectedCandidate } from "./implementation.ts";

/** What is known of one member of the target. */
export interface ConsideredMember {
  readonly name: string;
  /** Candidates that compile. */
  readonly candidates: readonly Candidate[];
  readonly rejected: readonly RejectedCandidate[];
  /** Other names of the same member. */
  readonly aliases: readonly string[];
}

export interface Ranked {
  readonly uses: string;
  /** How good a candidate is, from 0 to 1. */
  readonly score: number;
  /** What is done, or why the candidate falls short. */
  readonly why: string;
}

/** The proposal for one member, if there is a good one. */
export interface Choice {
  readonly name: string;
  readonly chosen: Candidate | undefined;
  readonly score: number;
  /** All candidates, the best first. */
  readonly ranked: readonly Ranked[];
}

/** A candidate is proposed if it reaches this score. */
const LEAST_SCORE = 0.7;
/** One of the same name is proposed if it reaches this score. */
const LEAST_SAME_NAME = 0.5;
/** Similarity of names below which no type makes a candidate good. */
const LEAST_NAME = 0.7;
/** By how much a candidate has to exceed the others, unless its name is the same. */
const MARGIN = 0.03;
/** What a candidate loses whose member is a better match for another one. */
const TAKEN = 0.15;

/** Chooses a candidate for each member of a target. */
export function choose(members: readonly ConsideredMember[]): readonly Choice[] {
  /** The best similarity of names that each member of the adaptee has with a member of the target. */
  const claims = new Map<string, { readonly by: string; readonly name: number }>();
  for (const { name: by, candidates } of members)
    for (const { uses, name } of candidates)
      if (name > (claims.get(uses)?.name ?? 0)) claims.set(uses, { by, name });
  return members.map((member) => {
    const scored = bestOfEach(member.candidates)
      .map((candidate) => {
        const claim = claims.get(candidate.uses);
        const isTaken =
          claim !== undefined &&
          claim.by !== member.name &&
          claim.name > candidate.name &&
          // Members with two names may use the same one: `equals` and `eq`.
          !member.aliases.includes(claim.by);
        return { candidate, isTaken, score: scoreOf(candidate) - (isTaken ? TAKEN : 0) };
      })
      .sort((left, right) => right.score - left.score);
    const [best, second] = scored;
    const isSameName = (best?.candidate.name ?? 0) >= 0.98;
    const isClear = isSameName || (best?.score ?? 0) - (second?.score ?? 0) >= MARGIN;
    const least = isSameName ? LEAST_SAME_NAME : LEAST_SCORE;
    const isGood = best !== undefined && best.score >= least && best.candidate.name >= LEAST_NAME && isClear;
    const ranked: Ranked[] = [
      ...scored.map(({ candidate, isTaken, score }) => ({
        uses: candidate.uses,
        score: rounded(score),
        why: reasonOf(candidate, isTaken, isClear || candidate !== best?.candidate),
      })),
      ...member.rejected.map(({ uses, name, why }) => ({ uses, score: rounded(name * 0.5), why })),
    ];
    return {
      name: member.name,
      chosen: isGood ? best.candidate : undefined,
      score: rounded(best?.score ?? 0),
      ranked: ranked.sort((left, right) => right.score - left.score),
    };
  });
}

/** Several signatures of a member give several candidates. */
function bestOfEach(candidates: readonly Candidate[]): readonly Candidate[] {
  const best = new Map<string, Candidate>();
  for (const candidate of candidates) {
    const better = best.get(candidate.uses);
    if (!better || scoreOf(candidate) > scoreOf(better)) best.set(candidate.uses, candidate);
  }
  return [...best.values()];
}

function scoreOf({ name, cost: ownCost, notes, unusedOptions = 0 }: Candidate): number {
  // Values that become something else make it less likely that similar names mean the same.
  const cost = name < 0.9 && notes.some((note) => CHANGES.has(note)) ? ownCost * 2 : ownCost;
  // The less alike the names are, the more an option matters that the other member does not take.
  const option = name >= 0.98 ? 0.08 : 0.1;
  return Math.max(0, 0.7 * name + 0.3 - cost - option * Math.min(unusedOptions, 2));
}

function likenessText(name: number): string {
  if (name === 1) return "same name";
  if (name >= 0.98) return "same words";
  return name >= LEAST_NAME ? "similar name" : "its name is too different";
}

function reasonOf({ name, notes, cost }: Candidate, isTaken: boolean, isClear: boolean): string {
  const parts = [
    likenessText(name),
    ...notes,
    ...(isTaken ? ["another member fits it better"] : []),
    ...(isClear ? [] : ["another candidate is as good"]),
    ...(cost > 0.3 ? ["much has to be converted"] : []),
  ];
  return parts.join("; ");
}

function rounded(score: number): number {
  return Math.round(score * 100) / 100;
}
