import { exportedFrom, targetTypeOf } from "../compiler/exported.ts";
import { ProblemError } from "../errors.ts";
import type { Destination } from "../isolation/move-file.ts";
import { exportKey, factoryName, handedName, memberName } from "../isolation/naming.ts";
import { exportIn, pathIn } from "../isolation/open-isolation.ts";
import { specifierOf } from "../isolation/outside-uses.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import type { ImportSite } from "../parser/module-record.ts";
import type { Isolation } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";

/**
 * Where callers of an outside module can be moved to, by what its target and adapter are in the project.
 *
 * @throws {ProblemError} `NO_SUCH_FILE`, `NO_SUCH_EXPORT`
 */
export function destinationIn(
  project: OpenProject,
  outside: string,
  { target, adapter, names }: Isolation,
): Destination {
  const adapterPath = pathIn(project.root, adapter);
  const targetPath = pathIn(project.root, target);
  const keepsNames = names === "same";
  const given = names === "same" ? {} : names;
  const object = exportIn(adapter);
  requireFile(project, outside, adapter, adapterPath);
  const exports = project.program.exportsOf(adapterPath);
  const types = project.program.exportsOf(targetPath);
  const exported = exportedFrom(project.program, targetPath, exportIn(target));
  const type = exported && targetTypeOf(exported);
  const members = new Set(
    exported && type ? exported.checker.getPropertiesOfType(type).map(({ name }) => name) : [],
  );
  if (!keepsNames && type && !exports.has(object)) {
    throw new ProblemError(
      "NO_SUCH_EXPORT",
      `The config gives ${adapter} as the adapter of ${outside}, and the file exports no ${object}. Correct the config.`,
    );
  }
  const imported = importedBy(project, outside, adapterPath);
  // A target that has nothing of its module's names is in the shape of the one thing that the module is.
  const isWhole = (specifier: string, name: string) =>
    name === "default" && type !== undefined && !members.has(memberName(outside, specifier, name, given));
  return {
    keepsNames,
    object,
    handsAll: (specifier) => imported.some((each) => each.isWhole && each.specifier === specifier),
    touches: (specifier) => imported.some((each) => each.specifier === specifier),
    of: (specifier, name) => {
      const key = exportKey(outside, specifier, name);
      const member = memberName(outside, specifier, name, given);
      const factory = factoryName(outside, specifier, name, given);
      const ownType = given[name] ?? given[key] ?? name;
      const handed = handedName(outside, specifier, name);
      // A type that is handed on as it is has no other in its place, though the target may have one of that name.
      const isHandedOn = imported.some(
        (each) => each.specifier === specifier && each.handsOn.some((own) => own.name === name),
      );
      const found = {
        member: members.has(member)
          ? member
          : isWhole(specifier, name) && !exports.has(handed)
            ? ""
            : undefined,
        factory: members.has(factory) ? factory : undefined,
        type: types.has(ownType) && !isHandedOn ? ownType : undefined,
        handed: exports.has(handed) ? handed : undefined,
      };
      return Object.values(found).some((each) => each !== undefined) ? found : undefined;
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

/** What the adapter's module imports of the outside one, and whether it hands on all of that. */
function importedBy(
  project: OpenProject,
  outside: string,
  path: string,
): readonly {
  readonly specifier: string;
  readonly isWhole: boolean;
  readonly handsOn: ImportSite["handsOn"];
}[] {
  return project.imports
    .filter(({ package: name, source }) => name === outside && source.path === path)
    .map(({ source, site }) => ({
      specifier: specifierOf(project, source, site),
      handsOn: site.handsOn,
      isWhole:
        site.handsOn.some((each) => each.name === "*" && each.as === "*") ||
        // As a script of CommonJS says it.
        /(\bObject\.assign\(\s*exports\s*,|\bmodule\.exports\s*=)\s*require\(\s*$/.test(
          source.text.slice(0, site.offset),
        ),
    }));
}

function requireFile(project: OpenProject, outside: string, adapter: string, path: string): void {
  if (project.isOwn(path)) return;
  throw new ProblemError(
    "NO_SUCH_FILE",
    `The config gives ${adapter} as the adapter of ${outside}, and there is no such file in the project. ` +
      `Write it, or have it drafted by \`sleeve draft ${outside} --write\`.`,
  );
}
