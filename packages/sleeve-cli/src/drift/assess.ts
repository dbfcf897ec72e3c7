import type { AssessedDifference, Difference, Drift } from "../documents/drift-document.ts";
import type { Place } from "../documents/place.ts";
import type { CompileError } from "../emit/compile-errors.ts";
import { usedMembersIn } from "../isolation/outside/outside-members.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import { comparePlaces } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import { outsideSurfaceOf } from "../types/outside-surface.ts";
import type { UsedMembers } from "../uses/members/used-members.ts";

export function driftOf(
  module: string,
  recorded: string | null,
  now: string | null,
  differences: readonly AssessedDifference[],
): Drift {
  return { module, recorded, now, differences, isBreaking: differences.some(({ isBreaking }) => isBreaking) };
}

/** Adds the compiler's errors to each difference. */
export function assess(
  project: OpenProject,
  outside: string,
  differences: readonly Difference[],
  errors: readonly CompileError[],
  uses: OutsideUses,
  reportsAll: boolean,
): readonly AssessedDifference[] {
  const usedMembers = usedMembersIn(project, outside, uses);
  const placeAt = (path: string, offset: number): Place | undefined => {
    const source = project.sourceAt(path);
    return source && project.placeOf(source, offset);
  };
  const reported = new Set<CompileError>();
  // An error about an unresolved import belongs to that import, whatever else its line names.
  const nowhere = differences.filter(({ kind }) => isOfEntryPoint(kind)).map(({ subject }) => `'${subject}'`);
  const isOfEntry = ({ text }: CompileError) => nowhere.some((quoted) => text.includes(quoted));
  // An error that names one difference does not belong to another one on the same line.
  const isAbout = (error: CompileError, difference: Difference): boolean =>
    differences.some((difference) => isNamedIn(error.text, difference))
      ? isNamedIn(error.text, difference)
      : isNamedIn(lineOf(project, error), difference);
  const judged = differences.map((difference): AssessedDifference => {
    const isEntry = isOfEntryPoint(difference.kind);
    // A deprecated member still works.
    const messages =
      difference.kind === "deprecated"
        ? []
        : errors.filter((error) => isEntry === isOfEntry(error) && isAbout(error, difference));
    for (const compileError of messages) reported.add(compileError);
    return {
      ...difference,
      isBreaking: messages.length > 0,
      errors: distinct(
        messages.flatMap(({ path, offset, text }) => {
          const place = placeAt(path, offset);
          return place ? [{ place, text }] : [];
        }),
      ),
      places: distinct(placesOf(project, uses, usedMembers, difference.subject, placeAt)),
    };
  });
  const unreported = reportsAll ? errors.filter((error) => !reported.has(error)) : [];
  const others = unreported.flatMap(({ path, offset, text }): AssessedDifference[] => {
    const place = placeAt(path, offset);
    if (!place) return [];
    return [
      {
        kind: "other",
        subject: "its result",
        before: "compiles",
        now: "does not compile",
        isBreaking: true,
        errors: [{ place, text }],
        places: [],
      },
    ];
  });
  return [...judged, ...others];
}

function isOfEntryPoint(kind: Difference["kind"]): boolean {
  return kind === "entry point" || kind === "types";
}

/** Returns values with distinct places and texts. */
function distinct<Value>(values: readonly Value[]): readonly Value[] {
  return [...new Map(values.map((value) => [JSON.stringify(value), value])).values()];
}

/** Whether a text mentions the subject of a difference. */
function isNamedIn(text: string, { subject, kind }: Difference): boolean {
  const name = isOfEntryPoint(kind) ? subject : (subject.split(".").at(-1) ?? subject);
  return new RegExp(`(?<![\\w$])${name.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")}(?![\\w$])`).test(text);
}

function lineOf(project: OpenProject, { path, offset }: CompileError): string {
  const text = project.sourceAt(path)?.text ?? "";
  const end = text.indexOf("\n", offset);
  return text.slice(text.lastIndexOf("\n", offset - 1) + 1, end < 0 ? undefined : end);
}

/** Returns the project's uses of an export or of its member, as far as they can still be resolved. */
function placesOf(
  project: OpenProject,
  { exports, files }: OutsideUses,
  used: UsedMembers,
  subject: string,
  placeAt: (path: string, offset: number) => Place | undefined,
): readonly Place[] {
  const [owner = "", member] = subject.split(/\.(?=[^.]*$)/);
  if (member === undefined) {
    const direct = exports.filter(({ name }) => name === owner).flatMap(({ places }) => places);
    const importing = files.flatMap(({ source, sites }) =>
      sites
        .filter(({ specifier }) => specifier === subject)
        .map(({ offset }) => project.placeOf(source, offset)),
    );
    return [...direct, ...importing].sort(comparePlaces);
  }
  const [firstFile] = files;
  const site = firstFile?.sites[0];
  if (!firstFile || !site) return [];
  const places: Place[] = [];
  outsideSurfaceOf(project.program, firstFile.source.path, site.offset, {
    isExportWanted: () => false,
    isMemberWanted: (of, name, symbol) => {
      if (of !== owner || name !== member) return false;
      for (const { path, offset } of used.usesOf(symbol)) {
        const place = placeAt(path, offset);
        if (place) places.push(place);
      }
      return false;
    },
  });
  return places.sort(comparePlaces);
}
