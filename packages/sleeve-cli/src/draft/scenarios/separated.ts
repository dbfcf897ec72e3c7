import { noNeeds, PRINTED, type ScenarioLine } from "./scenario-line.ts";

const MOST_LINES = 30;

/**
 * Divides lines into groups that have no constants in common. A use whose error is handled ends its group, so it has one
 * of its own. Groups without a value to compare are dropped.
 */
export function separated(lines: readonly ScenarioLine[]): readonly (readonly ScenarioLine[])[] {
  const groups = joinedByConstants(lines.filter(({ isHandled, kind }) => !isHandled || kind === "constant"));
  const handled = lines
    .filter(({ isHandled, kind }) => isHandled && kind === "compared")
    .map((line) => [...lines.slice(0, lines.indexOf(line)).filter(({ kind }) => kind === "constant"), line]);
  return [...groups, ...handled]
    .map(withPrinted)
    .map(withoutUnused)
    .map(comparedAtOnce)
    .filter((group) => group.some(({ kind }) => kind === "compared"));
}

function joinedByConstants(lines: readonly ScenarioLine[]): readonly (readonly ScenarioLine[])[] {
  let groups: { readonly names: Set<string>; readonly lines: Set<ScenarioLine> }[] = [];
  for (const line of lines) {
    const names = new Set([...line.needs.constants, ...(line.name === undefined ? [] : [line.name])]);
    const joined = { names, lines: new Set<ScenarioLine>() };
    const others: typeof groups = [];
    for (const group of groups) {
      if (![...names].some((name) => group.names.has(name))) {
        others.push(group);
        continue;
      }
      for (const name of group.names) joined.names.add(name);
      for (const member of group.lines) joined.lines.add(member);
    }
    joined.lines.add(line);
    groups = [...others, joined];
  }
  return groups.map((group) => lines.filter((line) => group.lines.has(line)).slice(0, MOST_LINES));
}

/** Compares what callbacks print, at the end. */
function withPrinted(lines: readonly ScenarioLine[]): readonly ScenarioLine[] {
  const last = lines.findLast(({ needs }) => needs.constants.has(PRINTED));
  if (!last) return lines;
  const needs = { ...noNeeds(), constants: new Set([PRINTED]) };
  return [...lines, { ...last, kind: "compared", name: "", code: PRINTED, needs }];
}

/** Leaves out uses after the last value to compare, and constants that no line needs and that call no other. */
export function withoutUnused(lines: readonly ScenarioLine[]): readonly ScenarioLine[] {
  const last = lines.findLastIndex(({ kind }) => kind === "compared");
  let remaining = lines.slice(0, last + 1);
  for (;;) {
    const needed = new Set(remaining.flatMap(({ needs }) => [...needs.constants]));
    const next = remaining.flatMap((line): readonly ScenarioLine[] => {
      if (line.kind !== "constant" || needed.has(line.name ?? "")) return [line];
      const isCall = line.needs.usesTarget && line.needs.constants.size > 0 && !line.isHandled;
      return isCall ? [{ ...line, kind: "use" }] : [];
    });
    if (next.length === remaining.length) return next;
    remaining = next;
  }
}

/** Joins a constant with the next line, if that compares the constant and no other line needs it. */
function comparedAtOnce(lines: readonly ScenarioLine[]): readonly ScenarioLine[] {
  const uses = (name: string) => lines.filter(({ needs }) => needs.constants.has(name)).length;
  return lines.flatMap((line, index): readonly ScenarioLine[] => {
    const [before, after] = [lines[index - 1], lines[index + 1]];
    const isJoined = (constant: ScenarioLine | undefined, compared: ScenarioLine | undefined) =>
      constant?.kind === "constant" &&
      constant.type === undefined &&
      compared?.kind === "compared" &&
      compared.code === constant.name &&
      uses(constant.name) === 1;
    if (isJoined(line, after)) return [];
    return before && isJoined(before, line) ? [{ ...line, code: before.code, needs: before.needs }] : [line];
  });
}

/** Leaves out some lines, and those that need their constants. */
export function withoutLines(
  lines: readonly ScenarioLine[],
  isLeftOut: (index: number) => boolean,
): readonly ScenarioLine[] {
  const missing = new Set<string>();
  return lines.filter((line, index) => {
    const isKept = !isLeftOut(index) && ![...line.needs.constants].some((name) => missing.has(name));
    if (!isKept && line.name !== undefined) missing.add(line.name);
    return isKept;
  });
}
