import { existsSync, readFileSync } from "node:fs";
import { basename, dirname, join, relative, sep } from "node:path";
import { createTwoFilesPatch } from "diff";
import type { WrapperFile, WrapResult } from "../documents/wrap-document.ts";
import { type FileJob, type FileSteps, runAlone, runTogether } from "../emit/compile.ts";
import { type Language, printed } from "../emit/printed.ts";
import { type Style, styleOf } from "../emit/style.ts";
import { CliError } from "../errors.ts";
import { languageOf, stemOf } from "../isolation/file-language.ts";
import type { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import { unresolvedSpecifiers } from "../isolation/verification/written-files.ts";
import { exportParts } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import { asTypeName, camelCase } from "../types/writing/type-text.ts";
import { type VerifiedAdapter, verifyAdapter } from "./adapt/adapter.ts";
import type { Choice } from "./adapt/choose.ts";
import { commandOf } from "./command-line.ts";
import { operationsIn, type VerifiedFacade, verifyFacade } from "./facade/facade.ts";
import { operationProposal } from "./facade/proposals.ts";
import type { GenerateOptions } from "./generate-options.ts";
import { foundFile, withHeader } from "./generated-file.ts";
import type { WantedLayers } from "./layers.ts";
import { placeOf, requireIncluded, type WrapPlace } from "./place.ts";
import { typesExportedBy } from "./target/target.ts";
import { type VerifiedWrapper, verifyWrapper } from "./verify.ts";
import { wantedLayers } from "./wanted-layers.ts";

/** Options of one of several types. */
interface OneOfMany extends GenerateOptions {
  /** Whether layers that apply to none of its members are left out. */
  readonly isOneOfMany?: boolean;
}

/**
 * Generates the wrapper of a type, or of all types of a module. Each compiles in the project. Nothing is written.
 *
 * @param project one that can overlay files
 * @throws {CliError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`, `NOTHING_TO_WRAP`, `BAD_OPTION`, `DOES_NOT_COMPILE`
 */
export function generate(
  project: OpenProject,
  overlays: OverlayProgram,
  options: GenerateOptions,
): WrapResult {
  const layers = wantedLayers(options);
  if (options.kind === "bridge" && options.type.includes("#") && options.over)
    return bridgeOf(project, overlays, options, options.over);
  return options.type.includes("#")
    ? { wrappers: [wrapperOf(project, overlays, options, layers)], skipped: [] }
    : wrappersOfModule(project, overlays, options, layers);
}

/** Generates a bridge: the abstraction, an adapter for each implementation, and the contract of all of them. */
function bridgeOf(
  project: OpenProject,
  overlays: OverlayProgram,
  options: GenerateOptions,
  over: readonly string[],
): WrapResult {
  const { name, ...others } = options;
  if (others.to !== undefined && /\.\w+$/.test(others.to))
    throw new CliError("BAD_OPTION", `--to ${others.to} is a file, and a bridge has several. Name a folder.`);
  const all: readonly GenerateOptions[] = [
    { ...options, over: undefined },
    ...over.map((adaptee) => ({
      ...others,
      kind: "adapter" as const,
      over: [adaptee],
      name: adapterName(options.type, adaptee),
    })),
  ];
  const jobs = all.map((option) => jobFor(project, overlays, option));
  const contract = { ...others, kind: "contract" as const };
  const last = jobFor(project, overlays, contract);
  requireIncluded(
    project,
    [...jobs, last].map(({ place }) => place),
  );
  const files = runTogether(overlays.program, jobs).map((result) => {
    if (result instanceof CliError) throw result;
    return result;
  });
  // The contract imports the adapters, which are not on disk yet.
  const texts = new Map(files.map(({ file, text }) => [join(project.root, file), text]));
  const [contractFile] = runTogether(overlays.program, [last], texts);
  if (contractFile instanceof CliError) throw contractFile;
  return { wrappers: [...files, ...(contractFile ? [contractFile] : [])], skipped: [] };
}

/** `VhfNoticeChannel` for a target `NoticeChannel` over a class `Vhf`. */
function adapterName(type: string, adaptee: string): string {
  const nameOf = (place: string) => {
    const [module, name] = exportParts(place);
    return asTypeName(/^(default|\*)?$/.test(name) ? camelCase(stemOf(basename(module))) : name);
  };
  return `${nameOf(adaptee)}${nameOf(type)}`;
}

/** Wraps every type that a module exports and that has members. */
function wrappersOfModule(
  project: OpenProject,
  overlays: OverlayProgram,
  options: GenerateOptions,
  layers: WantedLayers,
): WrapResult {
  const { type: module, kind, name, to } = options;
  if (name !== undefined)
    throw new CliError(
      "BAD_OPTION",
      `--name ${name} names one class, and ${module} may have many types. Name one as ${module}#Type.`,
    );
  if (to !== undefined && /\.\w+$/.test(to))
    throw new CliError(
      "BAD_OPTION",
      `--to ${to} is a file, and ${module} may have many types. Name a folder.`,
    );
  const named = layers.layers.find(({ only }) => only !== undefined);
  if (named)
    throw new CliError(
      "BAD_OPTION",
      `--layer ${named.name}:${named.only?.join(",")} names members, and ${module} may have many types. Name one as ${module}#Type.`,
    );
  // Any file of the project can import the module.
  const { path, specifier } = placeOf(project, { type: `${module}#Probe`, kind, to, layers });
  const types = runAlone(overlays.program, {
    path,
    steps: typesExportedBy(overlays.program, path, specifier),
  });
  if (types.length === 0)
    throw new CliError(
      "NO_SUCH_EXPORT",
      `${module} cannot be resolved, or exports no types. Install it, or name another module.`,
    );
  return wrappersOf(
    project,
    overlays,
    types.map((name) => ({ ...options, type: `${module}#${name}`, isOneOfMany: true })),
    layers,
  );
}

/** Wraps types, of which none prevents the others from being wrapped. */
function wrappersOf(
  project: OpenProject,
  overlays: OverlayProgram,
  optionsOfTypes: readonly OneOfMany[],
  layers: WantedLayers,
): WrapResult {
  const skipped: WrapResult["skipped"][number][] = [];
  const jobs: (WrapJob & { readonly type: string })[] = [];
  for (const options of optionsOfTypes) {
    const job = { ...jobOf(project, overlays, options, layers), type: options.type };
    const earlier = jobs.find(({ path }) => path.toLowerCase() === job.path.toLowerCase());
    if (earlier)
      skipped.push({
        type: options.type,
        hasMembers: true,
        why: `${options.type} would be written to ${relative(project.root, earlier.path)}, as ${earlier.type} is. Wrap it alone, with --to.`,
      });
    else jobs.push(job);
  }
  requireIncluded(
    project,
    jobs.map(({ place }) => place),
  );
  const wrappers: WrapperFile[] = [];
  for (const [index, result] of runTogether(overlays.program, jobs).entries()) {
    if (!(result instanceof CliError)) wrappers.push(result);
    else if (!SKIPPED.has(result.code)) throw result;
    else
      skipped.push({
        type: jobs[index]?.type ?? "",
        hasMembers: result.code !== "NOTHING_TO_WRAP",
        why: result.message,
      });
  }
  return { wrappers, skipped };
}

/** Problems of one type, because of which the other types of a module are still wrapped. */
const SKIPPED: ReadonlySet<string> = new Set(["NOTHING_TO_WRAP", "DOES_NOT_COMPILE", "NO_SUCH_EXPORT"]);

/**
 * Returns the work on the file of one type.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `BAD_OPTION`
 */
export function jobFor(project: OpenProject, overlays: OverlayProgram, options: GenerateOptions): WrapJob {
  return jobOf(project, overlays, options, wantedLayers(options));
}

/** The work on the file of one type. */
export interface WrapJob extends FileJob<WrapperFile> {
  readonly place: WrapPlace;
}

function jobOf(
  project: OpenProject,
  overlays: OverlayProgram,
  options: OneOfMany,
  layers: WantedLayers,
): WrapJob {
  const { type, kind, to, name, isOneOfMany = false } = options;
  const place = placeOf(project, { type, kind, to, name, layers: { ...layers, isLenient: isOneOfMany } });
  if (kind === "contract")
    return {
      path: place.path,
      place,
      steps: wrapperSteps(project, overlays, options, withAdapters(project, place, options, layers), []),
    };
  const isOverOthers = kind === "adapter" || kind === "facade";
  const others = (isOverOthers ? (options.over ?? []) : []).map((over) =>
    placeOf(project, {
      type: over,
      kind,
      to: relative(project.root, place.path),
      name: place.className,
      layers,
    }),
  );
  return { path: place.path, place, steps: wrapperSteps(project, overlays, options, place, others) };
}

/** Adds the adapters that a contract is run over. */
function withAdapters(
  project: OpenProject,
  place: WrapPlace,
  { type, to, over = [] }: GenerateOptions,
  layers: WantedLayers,
): WrapPlace {
  const implementations = over.map((adaptee) => {
    const { className, output } = placeOf(project, {
      type,
      kind: "adapter",
      to: to === undefined || !/\.\w+$/.test(to) ? to : dirname(to),
      name: adapterName(type, adaptee),
      layers,
    });
    return { className, specifier: place.specifierTo(output) };
  });
  return { ...place, implementations };
}

function wrapperOf(
  project: OpenProject,
  overlays: OverlayProgram,
  options: GenerateOptions,
  layers: WantedLayers,
): WrapperFile {
  const job = jobOf(project, overlays, options, layers);
  requireIncluded(project, [job.place]);
  return runAlone(overlays.program, job);
}

function* wrapperSteps(
  project: OpenProject,
  overlays: OverlayProgram,
  options: GenerateOptions,
  place: WrapPlace,
  others: readonly WrapPlace[],
): FileSteps<WrapperFile> {
  const style = styleOf(project.root, place.source ? [place.source] : project.sources);
  const verified = yield* verifiedFile(project, overlays, options, { place, others, style });
  const header = {
    source: options.type,
    command: commandOf(options, verified.layers, relative(place.root, place.output).split(sep).join("/")),
  };
  const language = languageFor(project, place);
  const code = printed(verified.module, { language, style }).text;
  const text = withHeader(header, code, style.endOfLine);
  // TypeScript has been compiled as it is printed; comments change nothing.
  const compileErrors = language === "typescript" ? [] : (yield { path: place.output, text })();
  const unresolved = unresolvedSpecifiers(place.output, text, overlays.proposed);
  if (unresolved.length === 0 && compileErrors.length <= 2 * verified.open)
    return resultOf(options, place, verified, text);
  const [error] = [...unresolved, ...compileErrors];
  throw new CliError(
    "DOES_NOT_COMPILE",
    `The ${options.kind} of ${options.type} does not compile as it would be written: ${oneLine(error?.text ?? "")} Nothing was written.`,
  );
}

function oneLine(text: string): string {
  return text.replace(/\s+/g, " ").replace(/\.?$/, ".");
}

/** Generates what the kind needs. */
function* verifiedFile(
  project: OpenProject,
  overlays: OverlayProgram,
  { kind, operations = [], synonyms = [] }: GenerateOptions,
  {
    place,
    others,
    style,
  }: { readonly place: WrapPlace; readonly others: readonly WrapPlace[]; readonly style: Style },
): FileSteps<VerifiedWrapper & Partial<VerifiedAdapter & VerifiedFacade>> {
  const [adaptee] = others;
  if (kind === "facade") {
    const places = { target: place, subsystems: others };
    return yield* verifyFacade(project, overlays, places, operationsIn(operations), style, synonyms);
  }
  if (adaptee) return yield* verifyAdapter(project, overlays, { target: place, adaptee }, style, synonyms);
  return yield* verifyWrapper(project, overlays, place, style);
}

/** A script is an ES module by its ending, its package, or what the type's file is. */
function languageFor({ sources }: OpenProject, { output, path, source }: WrapPlace): Language {
  if (output === path) return "typescript";
  const named = source ?? sources.find((source) => dirname(source.path) === dirname(output));
  if (named) return languageOf({ ...named, path: output });
  return output.endsWith(".cjs") ? "commonjs" : "module";
}

function resultOf(
  { type, kind }: GenerateOptions,
  { root, output: path, className }: WrapPlace,
  {
    members,
    readAsFunctions,
    refused,
    choices,
    operations,
  }: VerifiedWrapper & Partial<VerifiedAdapter & VerifiedFacade>,
  text: string,
): WrapperFile {
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
    readAsFunctions: choices || operations ? [] : list(readAsFunctions),
    ...(choices && { proposals: choices.map(proposalOf) }),
    ...(operations && { proposals: [...operations].map(operationProposal) }),
    refused: list(refused),
  };
}

function proposalOf({ name, chosen, score, ranked }: Choice): Proposal {
  const [best] = ranked;
  return {
    member: name,
    ...(chosen && { uses: chosen.uses }),
    score,
    why: chosen
      ? (ranked.find(({ uses }) => uses === chosen.uses)?.why ?? "")
      : (best?.why ?? "no member has a similar name"),
    candidates: [...ranked],
  };
}

type Proposal = NonNullable<WrapperFile["proposals"]>[number];

function stateOf(before: string | undefined, text: string): WrapperFile["state"] {
  if (before === undefined) return "new";
  if (before === text) return "the same";
  const { kind } = foundFile(before);
  if (kind === "generated") return "stale";
  return kind === "edited" ? "edited" : "kept";
}
