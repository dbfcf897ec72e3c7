import type { ComparedExports, ExportDifference } from "../documents/exports-document.ts";
import { placeText } from "../place.ts";
import { printableDocument } from "../printable.ts";
import { type Colours, counted, labelled } from "./terminal.ts";

/** Formats a comparison of a project's exports: breaking differences first, and types that are not exported. */
export function exportsText(compared: ComparedExports, isRecorded: boolean, colours: Colours): string {
  const { name, before, now, exports, differences, exposed } = printableDocument(compared);
  const { bold, dim, green, red } = colours;
  const isBreaking = ({ consumers, implementers }: ExportDifference) =>
    consumers === "breaking" || implementers === "breaking";
  const isCompared = ({ consumers }: ExportDifference) => consumers !== "not compared";
  const breaking = differences.filter(isBreaking);
  const notCompared = differences.filter((difference) => !isCompared(difference));
  const others = differences.filter((difference) => !isBreaking(difference) && isCompared(difference));
  const lines = [
    ...[...breaking, ...notCompared].flatMap((difference) => [...differenceLines(difference, colours), ""]),
    ...others.map(
      ({ kind, name, entry }) =>
        `  ${green("compatible")}  ${kind}  ${name}${entry === "." ? "" : dim(`  ${entry}`)}`,
    ),
    ...(others.length > 0 ? [""] : []),
  ];
  if (exposed.length > 0) {
    lines.push(bold("types that clients see and no entry point exports"));
    for (const type of exposed)
      lines.push(
        `  ${(type.isNew ? red : dim)(type.of === null ? "private" : "outside")}  ${type.name}${type.of === null ? "" : ` of ${type.of}`}  ${dim(`in ${type.through}, ${placeText(type.place)}${type.isNew ? "" : ", as before"}`)}`,
      );
    lines.push("");
  }
  const project = name ?? "the project";
  if (isRecorded) {
    const what = `Recorded ${counted(exports, "export")} of ${project}${now === null ? "" : ` ${now}`}`;
    lines.push(exposed.length > 0 ? `${what}.` : green(`${what}.`));
    return `${lines.join("\n")}\n`;
  }
  const versions = before === null || before === now ? "the record" : before;
  const total = `${counted(exports, "export")} of ${project} compared with ${versions}: `;
  const shown =
    differences.length === 0
      ? "no difference"
      : `${breaking.length} breaking and ${others.length} compatible differences${notCompared.length > 0 ? `, ${notCompared.length} not compared` : ""}`;
  lines.push(
    breaking.length + notCompared.length > 0 || exposed.some(({ isNew }) => isNew)
      ? red(`${total}${shown}.`)
      : green(`${total}${shown}.`),
  );
  return `${lines.join("\n")}\n`;
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
    `  ${verdict}  ${kind}  ${name}${entry === "." ? "" : dim(`  ${entry}`)}${whom}`,
    ...(before === null ? [] : labelled("before", before)),
    ...(now === null ? [] : labelled("now", now)),
    ...reasons.flatMap((reason) => labelled("reason", reason)),
  ];
}
