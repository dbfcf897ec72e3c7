import { exportedFrom, targetTypeOf } from "../conformance/exported.ts";
import { CliError } from "../errors.ts";
import {
  exportKey,
  factoryName,
  guardName,
  isWholeExport,
  memberName,
  type Names,
  reexportName,
  typeName,
} from "../isolation/naming.ts";
import { exportIn, pathIn } from "../isolation/open-isolation.ts";
import type { Destination } from "../isolation/replacement.ts";
import { setUpsIn } from "../isolation/set-up.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import type { ImportSite } from "../parser/module-record.ts";
import type { Isolation } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";
import { importedIn } from "../uses/references.ts";

/**
 * Returns where callers of an outside module can be moved to, from the existing target and adapter.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`
 */
export function destinationIn(
  project: OpenProject,
  outside: string,
  { target, adapter, names }: Isolation,
): Destination {
  const adapterPath = pathIn(project.root, adapter);
  const targetPath = pathIn(project.root, target);
  const keepsNames = names === "same";
  const configNames = names === "same" ? {} : names;
  const object = exportIn(adapter);
  requireFile(project, outside, adapter, adapterPath);
  const exports = project.program.exportsOf(adapterPath);
  const types = project.program.exportsOf(targetPath);
  const exported = exportedFrom(project.program, targetPath, exportIn(target));
  const type = exported && targetTypeOf(exported);
  const properties = exported && type ? exported.checker.getPropertiesOfType(type) : [];
  const members = new Set(properties.map(({ name }) => name));
  // A member with members of its own has the shape of an export; the others are members of exports that are opened.
  const isObject = (name: string) => {
    const property = properties.find((candidate) => candidate.name === name);
    const propertyType = property && exported?.checker.getTypeOfSymbol(property);
    return (
      propertyType !== undefined && (exported?.checker.getPropertiesOfType(propertyType).length ?? 0) > 0
    );
  };
  if (!keepsNames && members.size > 0 && !exports.has(object)) {
    throw new CliError(
      "NO_SUCH_EXPORT",
      `The config names ${adapter} as the adapter of ${outside}, but the file does not export ${object}. Correct the config.`,
    );
  }
  const imported = importedBy(project, outside, adapterPath);
  // A target without any name of its module has the shape of the module's single export.
  const isWhole = (specifier: string, name: string) =>
    name === "default" &&
    type !== undefined &&
    !members.has(memberName(outside, specifier, name, configNames));
  return {
    keepsNames,
    object,
    reexportsAll: (specifier) => imported.some((item) => item.isWhole && item.specifier === specifier),
    setUps: setUpsOf(project, outside, adapterPath),
    touches: (specifier) => imported.some((item) => item.specifier === specifier),
    of: (specifier, name) => {
      const key = exportKey(outside, specifier, name);
      const member = memberName(outside, specifier, name, configNames);
      const factory = factoryName(outside, specifier, name, configNames);
      const guard = guardName(outside, specifier, name, configNames);
      const ownType = typeName(key, name, configNames);
      const [base = name] = name.split(".");
      // A type in a namespace is re-exported with the export that it is in.
      const handed = reexportName(outside, specifier, base);
      // A re-exported type has no replacement, even if the target has a type of that name.
      const isReexport =
        configNames?.[`type ${key}`] === undefined &&
        imported.some(
          (item) => item.specifier === specifier && item.reexports.some((reexport) => reexport.name === base),
        );
      const asWhole = isWhole(specifier, name) && !exports.has(handed) ? "" : undefined;
      const exportedName = name.includes(".") ? name : handed;
      const offered = (candidate: string) => (members.has(candidate) ? candidate : undefined);
      const isOpened = isWholeExport(name) && !isObject(member);
      const destination = {
        member: offered(member) ?? asWhole,
        factory: offered(factory),
        guard: offered(guard),
        opened: isOpened ? openedIn(key, members, configNames) : undefined,
        type: types.has(ownType) && !isReexport ? ownType : undefined,
        reexportedAs: exports.has(handed) ? exportedName : undefined,
      };
      return Object.values(destination).some((item) => item !== undefined) ? destination : undefined;
    },
    specifiers: (source) => {
      const ending = endingOf(source, project.sources, project.program.importEnding());
      return {
        adapter: specifierBetween(source.path, adapterPath, ending),
        target: specifierBetween(source.path, targetPath, ending),
      };
    },
  };
}

/** Returns the members that replace those of an export, by their names. */
function openedIn(
  key: string,
  members: ReadonlySet<string>,
  names: Names,
): ReadonlyMap<string, string> | undefined {
  const prefix = `${key}.`;
  const configured = Object.entries(names).filter(([name]) => name.startsWith(prefix));
  const opened = new Map([
    ...[...members].map((name) => [name, name] as const),
    ...configured.map(([name, member]) => [name.slice(prefix.length), member] as const),
  ]);
  return opened.size > 0 ? opened : undefined;
}

/** Returns the keys of the statements with which the adapter sets the module up. */
function setUpsOf({ program, imports }: OpenProject, outside: string, path: string): ReadonlySet<string> {
  const sites = imports.flatMap(({ package: name, source, site, specifier }) =>
    name === outside && source.path === path ? [{ ...site, specifier }] : [],
  );
  return new Set(setUpsIn(importedIn(program, path, sites)).map(({ key }) => key));
}

/** Returns what the adapter's module imports of the outside one, and whether it re-exports everything. */
function importedBy(
  project: OpenProject,
  outside: string,
  path: string,
): readonly {
  readonly specifier: string;
  readonly isWhole: boolean;
  readonly reexports: ImportSite["reexports"];
}[] {
  return project.imports
    .filter(({ package: name, source }) => name === outside && source.path === path)
    .map(({ site, specifier }) => ({
      specifier,
      reexports: site.reexports,
      isWhole: site.reexports.some((reexport) => reexport.name === "*" && reexport.as === "*"),
    }));
}

function requireFile(project: OpenProject, outside: string, adapter: string, path: string): void {
  if (project.isOwn(path)) return;
  throw new CliError(
    "NO_SUCH_FILE",
    `The config names ${adapter} as the adapter of ${outside}, but there is no such file in the project. ` +
      `Create it, or draft it with \`sleeve draft ${outside} --write\`.`,
  );
}
