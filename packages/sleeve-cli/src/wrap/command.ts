import { existsSync, readFileSync } from "node:fs";
import { relative, sep } from "node:path";
import { createTwoFilesPatch } from "diff";
import type { WrapResult } from "../documents/wrap-document.ts";
import type { Problem } from "../errors.ts";
import { OverlayProgram } from "../isolation/overlay-program.ts";
import { inStyle, styleOf } from "../isolation/style.ts";
import { loadConfig } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { type Recovery, Transaction } from "../project/writing/transaction.ts";
import { foundFile, withHeader } from "./generated-file.ts";
import { placeOf, type WrapPlace } from "./place.ts";
import { type VerifiedWrapper, verifyWrapper } from "./verify.ts";

export type WrapKind = WrapResult["kind"];

export interface WrapOptions {
  /** The type to wrap, as `file#export` or `package#export`. */
  readonly type: string;
  readonly kind: WrapKind;
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** The generated file, relative to the project. Default: beside the type's file, or in `src` for a package. */
  readonly to?: string | undefined;
  /** Name of the generated class. Default: the type's name and the kind: `TideTableForwarder`. */
  readonly name?: string | undefined;
  readonly write?: boolean | undefined;
}

/** What generating a wrapper returns. */
export interface Wrapped {
  readonly result: WrapResult;
  readonly isWritten: boolean;
  readonly recovery: Recovery | undefined;
  readonly problems: readonly Problem[];
}

/**
 * Generates a wrapper of a type as source. The file compiles in the project, and a file that was edited manually is never
 * overwritten.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`, `BAD_OPTION`, `DOES_NOT_COMPILE`, and the errors of finding the
 * project, its config and writing
 */
export async function runWrap(options: WrapOptions): Promise<Wrapped> {
  const { root, ...folder } = findProject(options.folder, options.tsconfig);
  using transaction = options.write ? Transaction.begin(root) : undefined;
  const recovery = transaction?.recover();
  await loadConfig(root);
  using project = OpenProject.open({ root, ...folder }, { canOverlay: true });
  using overlays = OverlayProgram.open(project);
  const place = placeOf(project, options);
  const verified = verifyWrapper(project, overlays, place);
  const style = styleOf(root, place.source ? [place.source] : project.sources);
  const code = inStyle(verified.text, style);
  const text = inStyle(withHeader({ source: options.type, command: commandOf(options, place) }, code), {
    ...style,
    width: Number.POSITIVE_INFINITY,
  });
  const result = resultOf(options, place, verified, text);
  const isWritten = transaction !== undefined && (result.state === "new" || result.state === "stale");
  if (isWritten) {
    const before = existsSync(place.path) ? readFileSync(place.path) : undefined;
    transaction.write([{ path: place.path, before, after: Buffer.from(text, "utf8") }]);
  }
  return { result, isWritten, recovery, problems: [...problemsOf(result), ...project.problems] };
}

/** The command that writes the file again, from the project's folder. */
function commandOf({ type, kind, to, name, tsconfig }: WrapOptions, { root, path }: WrapPlace): string {
  const file = relative(root, path).split(sep).join("/");
  return [
    `npx sleeve wrap ${type} --as ${kind}`,
    ...(to === undefined ? [] : [`--to ${file}`]),
    ...(name === undefined ? [] : [`--name ${name}`]),
    ...(tsconfig === undefined ? [] : [`--tsconfig ${tsconfig}`]),
    "--write",
  ].join(" ");
}

function resultOf(
  { type, kind }: WrapOptions,
  { root, path, className }: WrapPlace,
  { members, readAsFunctions, refused }: VerifiedWrapper,
  text: string,
): WrapResult {
  const file = relative(root, path).split(sep).join("/");
  const before = existsSync(path) ? readFileSync(path, "utf8") : undefined;
  const list = (names: ReadonlyMap<string, string>) => [...names].map(([member, why]) => ({ member, why }));
  return {
    source: type,
    kind,
    name: className,
    file,
    state: stateOf(before, text),
    text,
    diff: before === undefined || before === text ? "" : createTwoFilesPatch(file, file, before, text),
    members,
    readAsFunctions: list(readAsFunctions),
    refused: list(refused),
  };
}

function stateOf(before: string | undefined, text: string): WrapResult["state"] {
  if (before === undefined) return "new";
  if (before === text) return "the same";
  const { kind } = foundFile(before);
  return kind === "generated" ? "stale" : kind === "edited" ? "edited" : "kept";
}

function problemsOf({ state, file }: WrapResult): readonly Problem[] {
  switch (state) {
    case "edited":
      return [
        {
          code: "EDITED",
          message: `${file} was edited after it was generated, so it is not overwritten. Move your changes to a class that extends it, delete the file, and run again.`,
        },
      ];
    case "kept":
      return [
        {
          code: "NOT_GENERATED",
          message: `${file} exists and was not generated, so it is not overwritten. Name another file with --to.`,
        },
      ];
    default:
      return [];
  }
}
