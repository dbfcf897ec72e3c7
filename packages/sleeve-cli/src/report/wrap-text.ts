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
  if (wrappers.length === 0 && skipped.length === 0) return "There are no generated files.\n";
  const [firstWrapper] = wrappers;
  const onlyWrapper = wrappers.length === 1 && skipped.length === 0 ? firstWrapper : undefined;
  const lines = [
    ...(onlyWrapper
      ? wrapperLines(onlyWrapper, isWritten, isExplained, colours)
      : listLines(wrappers, colours)),
    ...memberLines(wrappers, onlyWrapper === undefined, colours),
    ...skippedLines(skipped, colours),
    ...closingLines(wrappers, isWritten, colours),
  ];
  return `${lines.join("\n").trimEnd()}\n`;
}

function wrapperLines(
  wrapper: WrapperFile,
  isWritten: boolean,
  isExplained: boolean,
  colours: Colours,
): readonly string[] {
  const { name, kind, members, source, file, state, proposals } = wrapper;
  const isOpen = kind === "facade" && proposals?.some(({ uses }) => uses === undefined) === true;
  return [
    colours.bold(`${name} ${DOES[kind]} ${counted(members, "member")} of ${source}`),
    colours.dim(`${file}: ${STATES[state]}`),
    "",
    ...(isWritten ? [] : codeLines(wrapper)),
    ...(proposals ? [...proposalLines(proposals, isExplained, colours), ""] : []),
    ...(isOpen
      ? ["Name steps with --operation name:member,member, or complete the members in the file.", ""]
      : []),
  ];
}

function listLines(wrappers: readonly WrapperFile[], { bold }: Colours): readonly string[] {
  return [
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
}

/** The members that are accessors, and those that are left out. */
function memberLines(
  wrappers: readonly WrapperFile[],
  namesWrappers: boolean,
  { yellow }: Colours,
): readonly string[] {
  const of = (list: "readAsFunctions" | "refused") =>
    wrappers.flatMap((wrapper) =>
      wrapper[list].map(({ member, why }) => `  ${namesWrappers ? `${wrapper.name} ` : ""}${member}: ${why}`),
    );
  const functions = of("readAsFunctions");
  const refused = of("refused");
  return [
    ...titled(`${counted(functions.length, "method is an accessor", "methods are accessors")}:`, functions),
    ...titled(yellow(`${counted(refused.length, "member is", "members are")} left out:`), refused),
  ];
}

function titled(title: string, lines: readonly string[]): readonly string[] {
  return lines.length === 0 ? [] : [title, ...lines, ""];
}

function skippedLines(skipped: WrapResult["skipped"], { yellow }: Colours): readonly string[] {
  const empty = skipped.filter(({ hasMembers }) => !hasMembers);
  const failed = skipped.filter(({ hasMembers }) => hasMembers);
  const names = empty.map(({ type }) => exportParts(type)[1]).join(", ");
  return [
    ...(empty.length === 0
      ? []
      : [
          ...paragraph(`${counted(empty.length, "type has", "types have")} no members to forward: ${names}.`),
          "",
        ]),
    ...titled(
      yellow(`${counted(failed.length, "type is", "types are")} left out:`),
      failed.map(({ why }) => `  ${why}`),
    ),
  ];
}

function closingLines(
  wrappers: readonly WrapperFile[],
  isWritten: boolean,
  { green }: Colours,
): readonly string[] {
  const fresh = wrappers.filter(({ state }) => state === "new" || state === "stale");
  if (isWritten) return [green(`Written: ${counted(fresh.length, "file")}.`)];
  if (wrappers.every(({ state }) => state === "the same")) return [green("Up to date.")];
  if (fresh.length === 0) return [];
  return [`Nothing was written. Add --write to write ${counted(fresh.length, "file")}.`];
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
