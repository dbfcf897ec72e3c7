import type { WrapperFile, WrapResult } from "../documents/wrap-document.ts";
import { exportParts } from "../place.ts";
import { printableDocument } from "../printable.ts";
import { type Colours, columns, counted, paragraph } from "./terminal.ts";

/** Formats generated wrappers for the terminal: one with its code, or its difference from the file on disk; several as a list. */
export function wrapText(
  wrapped: WrapResult,
  isWritten: boolean,
  colours: Colours,
  isExplained = false,
): string {
  const { wrappers, skipped } = printableDocument(wrapped);
  const { bold, dim, green, yellow } = colours;
  const [only] = wrappers;
  if (wrappers.length === 0 && skipped.length === 0) return "There are no generated files.\n";
  const isOne = wrappers.length === 1 && skipped.length === 0;
  const fresh = wrappers.filter(({ state }) => state === "new" || state === "stale");
  const lines =
    only && isOne
      ? [
          bold(`${only.name} ${DOES[only.kind]} ${counted(only.members, "member")} of ${only.source}`),
          dim(`${only.file}: ${STATES[only.state]}`),
          "",
          ...(isWritten ? [] : codeLines(only)),
        ]
      : [
          bold(counted(wrappers.length, kindOf(wrappers))),
          ...columns(
            wrappers.map(({ file, members, state, proposals = [] }) => [
              file,
              counted(members, "member"),
              `${STATES[state]}${openText(proposals)}`,
            ]),
            "  ",
          ),
          "",
        ];
  if (isOne && only?.proposals) {
    lines.push(...proposalLines(only.proposals, isExplained, colours), "");
    if (only.kind === "facade" && only.proposals.some(({ uses }) => uses === undefined))
      lines.push("Name steps with --operation name:member,member, or complete the members in the file.", "");
  }
  const of = (list: "readAsFunctions" | "refused") =>
    wrappers.flatMap((wrapper) =>
      wrapper[list].map(({ member, why }) => `  ${isOne ? "" : `${wrapper.name} `}${member}: ${why}`),
    );
  const functions = of("readAsFunctions");
  if (functions.length > 0)
    lines.push(
      `${counted(functions.length, "method is an accessor", "methods are accessors")}:`,
      ...functions,
      "",
    );
  const refused = of("refused");
  if (refused.length > 0)
    lines.push(yellow(`${counted(refused.length, "member is", "members are")} left out:`), ...refused, "");
  const empty = skipped.filter(({ hasMembers }) => !hasMembers);
  const failed = skipped.filter(({ hasMembers }) => hasMembers);
  if (empty.length > 0)
    lines.push(
      ...paragraph(
        `${counted(empty.length, "type has", "types have")} no members to forward: ${empty.map(({ type }) => exportParts(type)[1]).join(", ")}.`,
      ),
      "",
    );
  if (failed.length > 0)
    lines.push(
      yellow(`${counted(failed.length, "type is", "types are")} left out:`),
      ...failed.map(({ why }) => `  ${why}`),
      "",
    );
  if (isWritten) lines.push(green(`Written: ${counted(fresh.length, "file")}.`));
  else if (wrappers.every(({ state }) => state === "the same")) lines.push(green("Up to date."));
  else if (fresh.length > 0)
    lines.push(`Nothing was written. Add --write to write ${counted(fresh.length, "file")}.`);
  return `${lines.join("\n").trimEnd()}\n`;
}

function openText(proposals: NonNullable<WrapperFile["proposals"]>): string {
  const open = proposals.filter(({ uses }) => uses === undefined).length;
  return open === 0 ? "" : `, ${open} to complete`;
}

/** Files of several kinds are only generated files. */
function kindOf(wrappers: readonly WrapperFile[]): string {
  const [firstWrapper, ...others] = wrappers;
  return firstWrapper && others.every(({ kind }) => kind === firstWrapper.kind)
    ? firstWrapper.kind
    : "generated file";
}

/** Formats what an adapter does for each member: what it uses and why, or that the member is open. */
function proposalLines(
  proposals: NonNullable<WrapperFile["proposals"]>,
  isExplained: boolean,
  { dim, yellow }: Colours,
): readonly string[] {
  const open = proposals.filter(({ uses }) => uses === undefined);
  return [
    `${counted(proposals.length - open.length, "member has a proposal", "members have proposals")}${open.length === 0 ? "." : yellow(`, ${open.length} to complete.`)}`,
    ...columns(
      proposals.flatMap(({ member, uses, score, why, candidates }) => [
        [member, uses ?? "-", isExplained ? score.toFixed(2) : "", why],
        ...(isExplained
          ? candidates
              .filter((candidate) => candidate.uses !== uses)
              .map((candidate) => [
                "",
                dim(candidate.uses),
                dim(candidate.score.toFixed(2)),
                dim(candidate.why),
              ])
          : []),
      ]),
      "  ",
    ),
  ];
}

function codeLines({ state, text, diff }: WrapperFile): readonly string[] {
  const shown = state === "new" ? text : diff;
  return shown === ""
    ? []
    : [
        ...shown
          .trimEnd()
          .split(/\r?\n/)
          .map((line) => `  ${line}`.trimEnd()),
        "",
      ];
}

const DOES: Readonly<Record<WrapperFile["kind"], string>> = {
  forwarder: "forwards",
  decorator: "decorates",
  proxy: "creates on first use, and forwards,",
  adapter: "adapts",
  facade: "combines subsystems for",
  bridge: "switches between implementations of",
  contract: "describes",
  fake: "fakes",
  surface: "describes",
};

const STATES: Readonly<Record<WrapperFile["state"], string>> = {
  new: "new",
  "the same": "up to date",
  stale: "stale: the type has changed since",
  edited: "edited manually, kept",
  kept: "not generated, kept",
};
