import type { Place } from "../documents/place.ts";
import type { Problem } from "../errors.ts";
import {
  type MaskedSource,
  maskSource,
  offsetIn,
  rewrittenIn,
  withoutUnused,
} from "../parser/masked-source.ts";
import { type ModuleRecord, moduleRecordOf } from "../parser/module-record.ts";
import { isDeep } from "../parser/parse.ts";
import { compareText, Lines } from "../place.ts";
import type { ChangedFile } from "../project/survey-cache.ts";
import { declaresGlobals, mayReexport, mentionsOf, type PrefilterWords } from "./prefilter.ts";
import type { SurveyFacts } from "./survey.ts";

/** The stored part of a survey, from which the next one starts. */
export interface KeptSurvey {
  readonly facts: SurveyFacts;
  readonly problems: readonly Problem[];
  readonly words: PrefilterWords;
  /** The project's own files, relative to its folder. */
  readonly files: readonly string[];
  /** Folders that the compiler writes. */
  readonly outputs: readonly string[];
  /** Paths of files whose declarations can be used without an import. */
  readonly global: readonly string[];
  readonly imported: ImportedNames;
  /** Whether some of the files can be opened without the others. */
  readonly isOfOneConfig: boolean;
}

/** What the project's own files import from each other. */
export interface ImportedNames {
  /** The names, of any file. */
  readonly names: readonly string[];
  /** Paths of files that are imported or re-exported as a whole. */
  readonly whole: readonly string[];
}

/** Returns uses and leaks in the given files, from the compiler. */
export type QueryFiles = (paths: readonly string[]) => Promise<Pick<SurveyFacts, "uses" | "leaks">>;

/**
 * Returns the survey after the texts of some files have changed, equal to a complete survey. Only changed
 * files are analysed, and none if the rewritten parts mention nothing outside. Returns `undefined` if other
 * files can see the change: imports, exports and their types.
 */
export async function resurveyed(
  survey: KeptSurvey,
  changed: readonly ChangedFile[],
  fileOf: (path: string) => string,
  queryAgain: QueryFiles,
): Promise<KeptSurvey | undefined> {
  const { facts, problems, words } = survey;
  if (changed.some(({ path, before, after }) => isDeep(path, before) || isDeep(path, after)))
    return undefined;
  const imported = new Set(survey.imported.names);
  const reexporting = new Set(survey.imported.whole);
  const files = changed.map(
    (changedFile) =>
      new Revised(
        changedFile,
        fileOf(changedFile.path),
        (name) => !reexporting.has(changedFile.path) && !imported.has(name),
      ),
  );
  const isInProblem = (file: string) => problems.some(({ message }) => message.includes(file));
  if (files.some((file) => !file.isInside || isInProblem(file.file))) return undefined;
  const { mayUse, mentionsIn } = mentionsOf(words);
  const toQuery = files.filter(
    ({ path, rewritten }) => mayUse(path) && rewritten.some((text) => mentionsIn({ path, text }).length > 0),
  );
  if (toQuery.length > 0 && !survey.isOfOneConfig) return undefined;
  const answers =
    toQuery.length > 0 ? await queryAgain(toQuery.map(({ path }) => path)) : { uses: [], leaks: [] };
  const byFile = new Map(files.map((file) => [file.file, file]));
  const changedFiles = new Set(toQuery.map(({ file }) => file));
  const isKept = ({ place }: { readonly place: Place }) => !changedFiles.has(place.file);
  const isReexport = ({ how }: SurveyFacts["leaks"][number]) => how === "re-exported";
  // The clients of each leak are counted in a complete survey.
  const wholeFiles = new Set(survey.imported.whole.map(fileOf));
  const hasClients = ({ export: name, place }: SurveyFacts["leaks"][number]) =>
    wholeFiles.has(place.file) || imported.has(name.split(".")[0] ?? name);
  const kindsOf = (leaks: SurveyFacts["leaks"]) =>
    JSON.stringify(
      leaks
        .filter((leak) => hasClients(leak))
        .map((leak) => [leak.package, leak.export, leak.place.file, leak.how])
        .sort((a, b) => compareText(a.join(), b.join())),
    );
  const wereLeaks = facts.leaks.filter((leak) => !isKept(leak) && !isReexport(leak));
  if (kindsOf(wereLeaks) !== kindsOf(answers.leaks.filter((leak) => !isReexport(leak)))) return undefined;
  const moved = <Fact extends { readonly place: Place }>(facts: readonly Fact[]): readonly Fact[] =>
    facts.map((item) => ({
      ...item,
      place: byFile.get(item.place.file)?.placeNow(item.place) ?? item.place,
    }));
  return {
    ...survey,
    facts: {
      ...facts,
      unresolved: [
        ...facts.unresolved.filter(({ file }) => !byFile.has(file)),
        ...files.flatMap((file) => file.unresolved),
      ],
      imports: moved(facts.imports),
      // In the order of a complete survey.
      uses: inOrder([...moved(facts.uses.filter(isKept)), ...answers.uses]),
      leaks: [
        ...inOrder([
          ...moved(facts.leaks.filter((leak) => isKept(leak) && !isReexport(leak))),
          ...answers.leaks.filter((leak) => !isReexport(leak)),
        ]),
        ...moved(facts.leaks.filter(isReexport)),
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
  /** Whether no other file can see the change. */
  readonly isInside: boolean;
  /** Its changed parts, old and new. */
  readonly rewritten: readonly string[];
  readonly unresolved: readonly Place[];
  readonly #sites: ReadonlyMap<number, number>;
  readonly #before: MaskedSource;
  readonly #after: MaskedSource;
  readonly #linesBefore: Lines;
  readonly #lines: Lines;

  /** @param isUnimported whether no other file imports this file's export of a name */
  constructor({ path, before, after }: ChangedFile, file: string, isUnimported: (name: string) => boolean) {
    // Other files cannot see declarations that only one version has, unless they import them.
    const old = withoutUnused(path, before, (name) => isUnimported(name) && !mentionsName(after, name));
    const now = withoutUnused(path, after, (name) => isUnimported(name) && !mentionsName(before, name));
    const [was, is] = [moduleRecordOf(path, old.text), moduleRecordOf(path, now.text)];
    this.path = path;
    this.file = file;
    this.#before = maskSource(path, old.text);
    this.#after = maskSource(path, now.text);
    this.#linesBefore = new Lines(before);
    this.#lines = new Lines(after);
    const unseen = [...old.unused, ...now.unused];
    this.isInside =
      (unseen.length === 0 || (was.isModule && is.isModule && !unseen.some(mayImport))) &&
      outlineOf(old.text, was, this.#before) === outlineOf(now.text, is, this.#after);
    this.rewritten = this.isInside ? [...rewrittenIn(this.#before, this.#after), ...unseen] : [];
    this.unresolved = is.unresolved.map((offset) => ({ file, ...this.#lines.at(offset) }));
    this.#sites = new Map(was.sites.map(({ offset }, at) => [offset, is.sites[at]?.offset ?? offset]));
  }

  /** Returns the new place of an old one, unless it was rewritten. */
  placeNow(before: Place): Place | undefined {
    const was = this.#linesBefore.offsetOf(before);
    const is = this.#sites.get(was) ?? offsetIn(this.#before, this.#after, was);
    return is === undefined ? undefined : { file: this.file, ...this.#lines.at(is) };
  }
}

function mentionsName(text: string, name: string): boolean {
  return new RegExp(`(?<![\\w$])${name.replaceAll("$", "\\$")}(?![\\w$])`).test(text);
}

/** Whether code may load a module, or contain elements, which import one. */
function mayImport(text: string): boolean {
  return /\b(?:require|import)\b|createRequire|<[\w.]*[\s/>]|<reference/.test(text);
}

/** Returns the parts of a file that other files, or their survey, depend on. */
function outlineOf(text: string, record: ModuleRecord, { seen, hidden }: MaskedSource): string {
  const { sites, isModule, firstElement, syntaxErrors, unresolved } = record;
  return JSON.stringify([
    sites.map(({ offset: _, ...site }) => site),
    isModule,
    firstElement === undefined,
    // A file with syntax errors is reported, with the place.
    syntaxErrors.length > 0 ? text : "",
    unresolved.length,
    declaresGlobals(text),
    mayReexport(text),
    hidden.length,
    seen,
  ]);
}
