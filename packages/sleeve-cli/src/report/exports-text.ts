import type { ComparedExports, ExportDifference } from "../documents/exports-document.ts";
import { placeText } from "../place.ts";
import { printableDocument } from "../printable.ts";
import { type Colours, counted, labelled } from "./terminal.ts";

/** Formats a comparison of a project's exports: breaking differences first, and types that are not exported. */
export function exportsText(compared: ComparedExports, isRecorded: boolean, colours: Colours): string {
  const { exports, differences, exposed, ...versions } = printableDocument(compared);
  const { dim, green, red } = colours;
  const breaking = differences.filter(isBreaking);
  const notCompared = differences.filter((difference) => !isCompared(difference));
  const compatible = differences.filter((difference) => !isBreaking(difference) && isCompared(difference));
  const lines = [
    ...[...breaking, ...notCompared].flatMap((difference) => [...differenceLines(difference, colours), ""]),
    ...compatible.map(
      ({ kind, name, entry }) => `  ${green("compatible")}  ${kind}  ${name}${entryText(entry, dim)}`,
    ),
    ...(compatible.length > 0 ? [""] : []),
    ...exposedLines(exposed, colours),
  ];
  const { before, now } = versions;
  const project = versions.name ?? "the project";
  if (isRecorded) {
    const recorded = `Recorded ${counted(exports, "export")} of ${project}${now === null ? "" : ` ${now}`}.`;
    lines.push(exposed.length > 0 ? recorded : green(recorded));
    return `${lines.join("\n")}\n`;
  }
  const reference = before === null || before === now ? "the record" : before;
  const counts =
    differences.length === 0
      ? "no difference"
      : `${breaking.length} breaking and ${compatible.length} compatible differences${notCompared.length > 0 ? `, ${notCompared.length} not compared` : ""}`;
  const isFailed = breaking.length + notCompared.length > 0 || exposed.some(({ isNew }) => isNew);
  const paint = isFailed ? red : green;
  lines.push(paint(`${counted(exports, "export")} of ${project} compared with ${reference}: ${counts}.`));
  return `${lines.join("\n")}\n`;
}

function isBreaking({ consumers, implementers }: ExportDifference): boolean {
  return consumers === "breaking" || implementers === "breaking";
}

function isCompared({ consumers }: ExportDifference): boolean {
  return consumers !== "not compared";
}

function entryText(entry: string, dim: Colours["dim"]): string {
  return entry === "." ? "" : dim(`  ${entry}`);
}

function exposedLines(exposed: ComparedExports["exposed"], { bold, dim, red }: Colours): readonly string[] {
  if (exposed.length === 0) return [];
  const lines = exposed.map(({ name, of, through, place, isNew }) => {
    const kind = (isNew ? red : dim)(of === null ? "private" : "outside");
    const owner = of === null ? "" : ` of ${of}`;
    return `  ${kind}  ${name}${owner}  ${dim(`in ${through}, ${placeText(place)}${isNew ? "" : ", as before"}`)}`;
  });
  return [bold("types that clients see and no entry point exports"), ...lines, ""];
}

function differenceLines(difference: ExportDifference, { red, dim }: Colours): readonly string[] {
  const { entry, name, kind, consumers, implementers, before, now, reasons } = difference;
  const effects = [
    ...(consumers === "breaking" ? ["consumers"] : []),
    ...(implementers === "breaking" ? ["implementers"] : []),
  ];
  const verdict = consumers === "not compared" ? red("not compared") : red("breaking");
  const whom = effects.length > 0 ? `  ${dim(`for ${effects.join(" and ")}`)}` : "";
  return [
    `  ${verdict}  ${kind}  ${name}${entryText(entry, dim)}${whom}`,
    ...(before === null ? [] : labelled("before", before)),
    ...(now === null ? [] : labelled("now", now)),
    ...reasons.flatMap((reason) => labelled("reason", reason)),
  ];
}
