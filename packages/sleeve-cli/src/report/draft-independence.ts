import type { Draft } from "../documents/draft-document.ts";
import { type Colours, counted } from "./terminal.ts";

/** Below this share of independent members, a target depends on its module as a whole. */
const LEAST_INDEPENDENT = 0.5;

/** Says that a target depends on its module as a whole, before anything else. */
export function dependenceLines(draft: Draft, { yellow }: Colours): readonly string[] {
  if (!isJudged(draft)) return [];
  const { outside, quality } = draft;
  const { independent } = quality.members;
  const total = totalOf(quality);
  if (total === 0)
    return [yellow(`Not worth moving yet: no use of ${outside} has a member in the target.`), ""];
  if (independent / total >= LEAST_INDEPENDENT) return [];
  const count = independent === 0 ? "none" : `only ${independent}`;
  return [
    yellow(
      `This target depends on ${outside} as a whole: of ${counted(total, "used member")}, ${count} can have another implementation. The move only puts its imports in one place.`,
    ),
    "",
  ];
}

/** The members that are independent of the outside module, and why the others are not. */
export function independenceLines(draft: Draft, colours: Colours): readonly string[] {
  const { bold, dim, yellow } = colours;
  const { outside, quality, files } = draft;
  const { members, dependents, elsewhere, asserted, targetLines } = quality;
  const total = totalOf(quality);
  if (total === 0 || !isJudged(draft)) return [];
  const outsideTypes = files.find(({ role }) => role === "outside types");
  return [
    bold(`Independent of ${outside}: ${shareText(members.independent, total)}`),
    ...dependents.map(({ member, why }) => `  ${yellow(member)} is not: ${why}.`),
    ...elsewhere.map((error) => `  ${yellow("Something else")} needs it: ${error}.`),
    ...unlistedLines(draft, yellow),
    ...(outsideTypes && total > members.independent
      ? [`  Replace the types in ${outsideTypes.file} by types of your own.`]
      : []),
    dim(
      `  Tested by compiling the target and its callers without ${outside}. The target has ${(targetLines / total).toFixed(1)} lines for each used member.`,
    ),
    ...(asserted > 0 ? [dim(`  The adapter asserts the types of ${counted(asserted, "member")}.`)] : []),
    "",
    ...debtLines(draft, colours),
  ];
}

function totalOf({ members }: Draft["quality"]): number {
  return members.independent + members.dependent + members.reexported;
}

function shareText(count: number, total: number): string {
  if (count < total) return `${count} of ${total} used members`;
  return total === 1 ? "the used member" : `all ${total} used members`;
}

/** The members that callers use and that no type of the target declares. */
function unlistedLines(
  { outside, quality: { members, dependents } }: Draft,
  yellow: Colours["yellow"],
): readonly string[] {
  const unlisted = members.dependent - dependents.length;
  if (unlisted <= 0) return [];
  const what = counted(unlisted, dependents.length > 0 ? "more member" : "member");
  const [verb, object] = unlisted === 1 ? ["is", "it"] : ["are", "them"];
  return [`  ${yellow(what)} ${verb} not: only types of ${outside} declare ${object}.`];
}

function debtLines({ outside, debt }: Draft, { bold, yellow }: Colours): readonly string[] {
  const debts = Object.entries(debt);
  if (debts.length === 0) return [];
  return [
    bold(`Of ${outside}, recorded as debt in the config:`),
    ...debts.map(([name, why]) => `  ${yellow(name)}: ${why}`),
    "",
  ];
}

/** Whether a draft is of a whole target that callers use, and not of additions to one. */
function isJudged({ since, members, types, manualSteps }: Draft): boolean {
  return (since?.added.length ?? 0) === 0 && members.length + types.length + manualSteps.length > 0;
}
