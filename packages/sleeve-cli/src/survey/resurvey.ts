import type { Problem } from "../errors.ts";
import { type ModuleRecord, moduleRecordOf } from "../parser/module-record.ts";
import { offsetIn, rewrittenIn, type Shape, shapeOf } from "../parser/shape.ts";
import { compareText, Lines, type Place } from "../place.ts";
import type { ChangedFile } from "../project/last-run.ts";
import { declaresGlobals, type InterestWords, mayHandOn, mentionsOf } from "./interest.ts";
import type { SurveyFacts } from "./survey.ts";

/** What is kept of a survey, for the next one to begin from. */
export interface KeptSurvey {
  readonly facts: SurveyFacts;
  readonly problems: readonly Problem[];
  readonly words: InterestWords;
  /** The project's own files, relative to its folder. */
  readonly files: readonly string[];
  /** The paths of those of them whose declarations others need not import. */
  readonly global: readonly string[];
  /** Whether the compiler can be asked about some of the files by themselves. */
  readonly isOfOneConfig: boolean;
}

/** What the compiler has to be asked about anew: uses and leaks in some files, by their paths. */
export type AskAgain = (paths: readonly string[]) => Promise<Pick<SurveyFacts, "uses" | "leaks">>;

/**
 * A survey after the texts of some files have changed, as it would be if all were done anew: the compiler is asked about the
 * changed files alone, and about none where what was rewritten speaks of nothing outside. `undefined` where what changed can be seen
 * by other files: imports, exports and their types.
 */
export async function resurveyed(
  kept: KeptSurvey,
  changed: readonly ChangedFile[],
  fileOf: (path: string) => string,
  askAgain: AskAgain,
): Promise<KeptSurvey | undefined> {
  const { facts, problems, words } = kept;
  const files = changed.map((each) => new Revised(each, fileOf(each.path)));
  const tellsOf = (file: string) => problems.some(({ message }) => message.includes(file));
  if (files.some((each) => !each.isInside || tellsOf(each.file))) return undefined;
  const { mayReach, mentionsIn } = mentionsOf(words);
  const asked = files.filter(
    ({ path, rewritten }) =>
      mayReach(path) && rewritten.some((text) => mentionsIn({ path, text }).length > 0),
  );
  if (asked.length > 0 && !kept.isOfOneConfig) return undefined;
  const found = asked.length > 0 ? await askAgain(asked.map(({ path }) => path)) : { uses: [], leaks: [] };
  const byFile = new Map(files.map((each) => [each.file, each]));
  const askedFiles = new Set(asked.map(({ file }) => file));
  const isKept = ({ place }: { readonly place: Place }) => !askedFiles.has(place.file);
  const isHandedOn = ({ how }: SurveyFacts["leaks"][number]) => how === "re-exported";
  const moved = <Fact extends { readonly place: Place }>(all: readonly Fact[]): readonly Fact[] =>
    all.map((each) => ({ ...each, place: byFile.get(each.place.file)?.placeNow(each.place) ?? each.place }));
  return {
    ...kept,
    facts: {
      ...facts,
      unresolved: [
        ...facts.unresolved.filter(({ file }) => !byFile.has(file)),
        ...files.flatMap((each) => each.unresolved),
      ],
      imports: moved(facts.imports),
      // As all would be found, file after file.
      uses: inOrder([...moved(facts.uses.filter(isKept)), ...found.uses]),
      leaks: [
        ...inOrder([
          ...moved(facts.leaks.filter((each) => isKept(each) && !isHandedOn(each))),
          ...found.leaks.filter((each) => !isHandedOn(each)),
        ]),
        ...moved(facts.leaks.filter(isHandedOn)),
      ],
    },
  };
}

function inOrder<Fact extends { readonly place: Place }>(facts: readonly Fact[]): readonly Fact[] {
  return [...facts].sort((left, right) => compareText(left.place.file, right.place.file));
}

/** A file whose text has changed. */
class Revised {
  readonly path: string;
  readonly file: string;
  /** Whether no other file can see that it changed. */
  readonly isInside: boolean;
  /** The parts of it that changed, as they were and as they are. */
  readonly rewritten: readonly string[];
  readonly unresolved: readonly Place[];
  readonly #sites: ReadonlyMap<number, number>;
  readonly #before: Shape;
  readonly #after: Shape;
  readonly #linesBefore: Lines;
  readonly #lines: Lines;

  constructor({ path, before, after }: ChangedFile, file: string) {
    const [was, is] = [moduleRecordOf(path, before), moduleRecordOf(path, after)];
    this.path = path;
    this.file = file;
    this.#before = shapeOf(path, before);
    this.#after = shapeOf(path, after);
    this.#linesBefore = new Lines(before);
    this.#lines = new Lines(after);
    this.isInside = outlineOf(before, was, this.#before) === outlineOf(after, is, this.#after);
    this.rewritten = this.isInside ? rewrittenIn(this.#before, this.#after) : [];
    this.unresolved = is.unresolved.map((offset) => ({ file, ...this.#lines.at(offset) }));
    this.#sites = new Map(was.sites.map(({ offset }, at) => [offset, is.sites[at]?.offset ?? offset]));
  }

  /** Where something stands now that stood somewhere before, unless it was rewritten. */
  placeNow(before: Place): Place | undefined {
    const was = this.#linesBefore.offsetOf(before);
    const is = this.#sites.get(was) ?? offsetIn(this.#before, this.#after, was);
    return is === undefined ? undefined : { file: this.file, ...this.#lines.at(is) };
  }
}

/** All of a file that other files, or the survey of them, depend on. */
function outlineOf(text: string, record: ModuleRecord, { seen, hidden }: Shape): string {
  const { sites, isModule, firstElement, syntaxErrors, unresolved } = record;
  return JSON.stringify([
    sites.map(({ offset: _, ...site }) => site),
    isModule,
    firstElement === undefined,
    // A file that does not parse is told, with its place.
    syntaxErrors.length > 0 ? text : "",
    unresolved.length,
    declaresGlobals(text),
    mayHandOn(text),
    hidden.length,
    seen,
  ]);
}
