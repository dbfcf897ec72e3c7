import { exportedFrom, targetTypeOf } from "../conformance/exported.ts";
import { CliError } from "../errors.ts";
import { exportKey, factoryName, memberName, reexportName, typeName } from "../isolation/naming.ts";
import { exportIn, pathIn } from "../isolation/open-isolation.ts";
import type { Destination } from "../isolation/replacement.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import type { ImportSite } from "../parser/module-record.ts";
import type { Isolation } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";

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
  const members = new Set(
    exported && type ? exported.checker.getPropertiesOfType(type).map(({ name }) => name) : [],
  );
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
    touches: (specifier) => imported.some((item) => item.specifier === specifier),
    of: (specifier, name) => {
      const key = exportKey(outside, specifier, name);
      const member = memberName(outside, specifier, name, configNames);
      const factory = factoryName(outside, specifier, name, configNames);
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
      const destination = {
        member: members.has(member) ? member : asWhole,
        factory: members.has(factory) ? factory : undefined,
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
