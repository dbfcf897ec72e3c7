import type { Place } from "../documents/place.ts";
import type { MemberUse, PackageSurvey, Survey } from "../documents/survey-document.ts";
import { placeText } from "../place.ts";
import { printableDocument } from "../printable.ts";

import { type Colours, columns, counted } from "./terminal.ts";

const PACKAGES_SHOWN = 14;
const NOTES_SHOWN = 5;
const MEMBERS_SHOWN = 5;
const PLACES_SHOWN = 4;
const WORDS_SHOWN = 4;

/**
 * Formats a survey for the terminal: the package to isolate first and why; all details if a part was
 * requested.
 */
export function surveyText(surveyed: Survey, isDetailed: boolean, colours: Colours): string {
  const survey = printableDocument(surveyed);
  const { files, packages } = survey;
  const [firstPackage] = packages;
  if (!firstPackage) {
    const what = isDetailed ? "No such use in" : "No outside package is imported in";
    return `${what} the ${counted(files, "file")} of this project.\n`;
  }
  const lines = isDetailed
    ? packages.flatMap((pkg) => [...packageLines(pkg, survey, colours), ""])
    : [
        ...tableLines(survey, colours),
        ...firstLines(firstPackage, survey, colours),
        "",
        ...noteLines(survey, colours),
      ];
  return `${lines.join("\n").replace(/\n+$/, "")}\n`;
}

/** The word for members: used members, or imported names only. */
function membersWord({ level }: Pick<Survey, "level">): "member" | "name" {
  return level === "imports" ? "name" : "member";
}

function tableLines({ level, files, packages }: Survey, { bold, dim }: Colours): string[] {
  const shown = packages.slice(0, PACKAGES_SHOWN);
  const [head = "", ...rows] = columns([
    ["package", "version", "files", `${membersWord({ level })}s`, "leaks", "affected", "score", "why"],
    ...shown.map((pkg) => [
      pkg.name,
      pkg.version ?? (pkg.isInstalled ? "" : "not installed"),
      pkg.files.length,
      pkg.members.length,
      pkg.leaks.length,
      pkg.affectedFiles.now,
      pkg.verdict.score.toFixed(1),
      reasonText(pkg, files),
    ]),
  ]);
  const unlisted = packages.length - shown.length;
  return [
    bold(`${counted(packages.length, "outside package")} in ${counted(files, "file")}`),
    "",
    dim(head),
    ...rows,
    ...(unlisted > 0 ? [dim(`and ${counted(unlisted, "more package")}; --json lists all`)] : []),
    "",
  ];
}

/** Says what speaks most for isolating a package. */
function reasonText({ dependency, sameJobAs, files, leaks }: PackageSurvey, projectFiles: number): string {
  if (dependency?.deprecated != null) return "deprecated";
  const [job, ...otherJobs] = sameJobAs;
  if (job) return `same job as ${job.package}${otherJobs.length > 0 ? " and others" : ""}`;
  if (dependency && dependency.installed.length > 1) return `${dependency.installed.length} versions`;
  if (2 * leaks.length > files.length) return "in our exported signatures";
  const isWide = files.length > 2 && files.length * 4 >= projectFiles;
  return isWide ? "in many files" : `in ${counted(files.length, "file")}`;
}

/** Formats the package to isolate first, and the calculation. */
function firstLines(survey: PackageSurvey, wholeSurvey: Survey, { bold, dim, yellow }: Colours): string[] {
  const { name, files, leaks, members, affectedFiles, verdict } = survey;
  const [leak] = leaks;
  const word = membersWord(wholeSurvey);
  const use =
    wholeSurvey.level === "imports"
      ? `${counted(members.length, "name is", "names are")} imported`
      : `an adapter needs ${counted(members.length, "member")}`;
  return [
    `Isolate ${bold(name)} first.`,
    `  It is used in ${counted(files.length, "file")} and leaks into ${counted(leaks.length, "exported signature")}; ` +
      `${use}.`,
    `  When its types change, ${counted(affectedFiles.now, "file is", "files are")} affected; isolated, ${affectedFiles.whenIsolated}.`,
    ...(affectedFiles.clients === null
      ? []
      : [
          `  When only an implementation changes, ${affectedFiles.clients === 0 ? "no other file" : counted(affectedFiles.clients, "other file")} must be rechecked.`,
        ]),
    ...(survey.dependency?.deprecated ? [`  It is deprecated: ${survey.dependency.deprecated}`] : []),
    dim(
      `  score ${verdict.score} = (${counted(files.length, "file")} + 2 x ${counted(leaks.length, "leak")})` +
        ` x square root of ${counted(Math.max(1, members.length), word)}`,
    ),
    "",
    ...columns(memberRows(members.slice(0, MEMBERS_SHOWN)), "  "),
    ...(members.length > MEMBERS_SHOWN
      ? [dim(`  and ${counted(members.length - MEMBERS_SHOWN, `more ${word}`)}`)]
      : []),
    ...(leak
      ? [`  ${yellow("leak")} ${leak.export} exposes ${leak.exposes} (${leak.how})  ${placeText(leak.place)}`]
      : []),
    ...(leaks.length > 1 ? [dim(`  and ${counted(leaks.length - 1, "more leak")}`)] : []),
    dim(`  --package ${name} shows all details`),
  ];
}

/** Notes about unusual packages, and imports that could not be followed. */
function noteLines({ packages, unresolved }: Survey, { dim, yellow }: Colours): string[] {
  const notes = packages.flatMap(({ name, dependency, members, uncompiled }) => [
    ...(uncompiled.length > 0
      ? [`${name} is imported outside the compiler's config: ${placesText(uncompiled)}`]
      : []),
    ...(dependency?.deprecated ? [`${name} is deprecated: ${dependency.deprecated}`] : []),
    ...(dependency && (dependency.declared === "undeclared" || dependency.declared === "transitive")
      ? [`${name} is imported, but no manifest requests it`]
      : []),
    ...(dependency && dependency.installed.length > 1
      ? [`${name} is installed in versions ${dependency.installed.join(", ")}`]
      : []),
    ...oddUses(name, members),
  ]);
  const jobs = packages.flatMap(({ name, sameJobAs }) =>
    sameJobAs
      .filter((other) => name < other.package)
      .map(
        (other) =>
          `${name} and ${other.package} may do the same job: both have ${listText(other.members)} (${listText(other.keywords)})`,
      ),
  );
  const blind = unresolved.map((place) => `${placeText(place)} imports a computed specifier`);
  const everyNote = [...notes, ...jobs, ...blind];
  return [
    ...everyNote.slice(0, NOTES_SHOWN).map((note) => `${yellow("note")} ${note}`),
    ...(everyNote.length > NOTES_SHOWN
      ? [dim(`and ${counted(everyNote.length - NOTES_SHOWN, "more note")}; --json lists all`)]
      : []),
  ];
}

function listText(words: readonly string[]): string {
  const shown = words.slice(0, WORDS_SHOWN).join(", ");
  return words.length > WORDS_SHOWN ? `${shown}, …` : shown;
}

/** Uses that need special care in an adapter. */
function oddUses(name: string, members: readonly MemberUse[]): string[] {
  const having = (kind: "extend" | "write" | "instanceof") =>
    members.filter(
      ({ kinds, member }) => kinds[kind] !== undefined && (kind !== "write" || !member.includes(".")),
    );
  const list = (uses: readonly MemberUse[]) => uses.map(({ member }) => member).join(", ");
  const extended = having("extend");
  const patched = having("write");
  return [
    ...(extended.length > 0 ? [`${name}: ${list(extended)} extended by our classes`] : []),
    ...(patched.length > 0 ? [`${name}: ${list(patched)} patched`] : []),
  ];
}

function packageLines(survey: PackageSurvey, wholeSurvey: Survey, colours: Colours): string[] {
  const { name, version, dependency, affectedFiles, verdict, imports, uncompiled, members, leaks } = survey;
  const { bold, dim, yellow } = colours;
  return [
    bold([name, ...(version === null ? [] : [version])].join(" ")),
    ...(dependency ? [dim(`  ${standingText(dependency)}`)] : []),
    dim(
      `  affected files ${affectedFiles.now}${affectedFiles.clients === null ? "" : `, clients of leaks ${affectedFiles.clients}`}, isolated ${affectedFiles.whenIsolated}; score ${verdict.score}`,
    ),
    ...section(
      "imports",
      imports.map(({ place, forms }) => [placeText(place), forms.join(", ")]),
    ),
    ...section(
      "imports outside the compiler's config",
      uncompiled.map((place) => [placeText(place)]),
    ),
    ...(members.length > 0 ? ["", `  ${membersWord(wholeSurvey)}s`] : []),
    ...members.flatMap((member) => memberLines(member, colours)),
    ...(leaks.length > 0 ? ["", `  ${yellow("leaks")}`] : []),
    ...columns(
      leaks.map(({ export: exported, exposes: shows, how, place }) => [
        exported,
        `exposes ${shows}`,
        how,
        placeText(place),
      ]),
      "    ",
    ),
  ];
}

function standingText({
  declared,
  requested,
  installed,
  deprecated,
}: NonNullable<PackageSurvey["dependency"]>): string {
  const versions = requested.length > 0 ? `, requested as ${requested.join(", ")}` : "";
  const there = installed.length > 0 ? `, installed ${installed.join(", ")}` : "";
  return `${declared}${versions}${there}${deprecated === null ? "" : `, deprecated: ${deprecated}`}`;
}

function section(title: string, rows: readonly (readonly (string | number)[])[]): string[] {
  return rows.length > 0 ? ["", `  ${title}`, ...columns(rows, "    ")] : [];
}

function memberRows(members: readonly MemberUse[]): (string | number)[][] {
  return members.map(({ member, uses, kinds, places }) => [
    member,
    uses,
    kindsText(kinds),
    places[0] ? placeText(places[0]) : "",
  ]);
}

function memberLines({ member, uses, kinds, signatures, places }: MemberUse, { dim }: Colours): string[] {
  return [
    `    ${member}  ${uses}  ${kindsText(kinds)}`,
    ...signatures.map(
      (signature) =>
        `      ${signature.signature}  ${dim(`arguments ${signature.sends}, ${counted(signature.uses, "time")}`)}`,
    ),
    dim(`      ${placesText(places)}`),
  ];
}

function placesText(places: readonly Place[]): string {
  const shown = places.slice(0, PLACES_SHOWN).map(placeText).join(", ");
  const unshown = places.length - PLACES_SHOWN;
  return `${shown}${unshown > 0 ? ` and ${counted(unshown, "more place")}` : ""}`;
}

function kindsText(kinds: MemberUse["kinds"]): string {
  return Object.entries(kinds)
    .map(([kind, count]) => `${kind} ${count}`)
    .join(", ");
}
