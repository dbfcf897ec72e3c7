import { join } from "node:path";
import { type PrintedModule, printed } from "../../emit/printed.ts";
import type { Style } from "../../emit/style.ts";
import { exportKey } from "../../isolation/naming.ts";
import type { Destination } from "../../isolation/replacement.ts";
import { endingOf, specifierBetween } from "../../isolation/specifiers.ts";
import type { OpenProject } from "../../project/open-project.ts";
import type { Outline, OutlineSettings } from "../outline/model.ts";
import { adapterModule } from "./adapter.ts";
import { outsideTypesModule } from "./outside-types.ts";
import { targetModule } from "./target.ts";

export interface RenderSettings extends Pick<OutlineSettings, "language" | "keepsNames"> {
  /** Paths of the target's and the adapter's files, and of the file with the outside types. */
  readonly targetPath: string;
  readonly adapterPath: string;
  readonly outsideTypesPath: string;
  readonly style: Style;
}

/** The drafted files, and where callers are moved to. */
export interface RenderedDraft {
  readonly target: PrintedModule;
  readonly outsideTypes: PrintedModule;
  readonly adapter: PrintedModule;
  readonly destination: Destination;
}

/** Writes the files of a draft. */
export function renderDraft(project: OpenProject, outline: Outline, settings: RenderSettings): RenderedDraft {
  const { targetPath, adapterPath, outsideTypesPath, language, style, keepsNames } = settings;
  const ending = endingOf(undefined, project.sources, project.program.importEnding());
  const between = (from: string, to: string) => specifierBetween(from, to, ending);
  // A module of the project is imported by its path.
  const isOurs = project.packages.some(({ name, kind }) => name === outline.outside && kind === "legacy");
  const writtenSpecifier = (specifier: string) =>
    isOurs ? between(adapterPath, join(project.root, specifier)) : specifier;
  const inTypeScript = { language: "typescript" as const, style };
  const target = printed(
    targetModule(outline, {
      specifierOf: (path) => between(targetPath, path),
      outsideTypes: between(targetPath, outsideTypesPath),
    }),
    inTypeScript,
  );
  const adapter = printed(
    adapterModule(outline, { language, target: between(adapterPath, targetPath), written: writtenSpecifier }),
    { language, style, isItself: outline.isItself },
  );
  const outsideTypes = printed(outsideTypesModule(outline, writtenSpecifier), inTypeScript);
  const byKey = new Map(outline.members.map((member) => [member.key, member]));
  const handed = new Map(outline.reexports.map((reexport) => [reexport.key, reexport.reexportedAs]));
  return {
    target,
    adapter,
    outsideTypes,
    destination: {
      keepsNames,
      object: outline.object,
      setUps: new Set(outline.setUps?.map(({ key }) => key)),
      reexportsAll: (specifier) => specifier === outline.reexportsAll,
      // Every import of the adapter also runs the module's side effects.
      touches: () => true,
      of: (specifier, name) => {
        const key = exportKey(outline.outside, specifier, name);
        if (outline.replacements) return outline.replacements.get(key);
        const reexportedName = handed.get(key);
        if (reexportedName !== undefined) return { reexportedAs: reexportedName };
        const member = byKey.get(key);
        const [base = name, ...nested] = name.split(".");
        if (!member && nested.length > 0) {
          const isHanded = handed.get(exportKey(outline.outside, specifier, base)) === base;
          return isHanded ? { reexportedAs: name } : undefined;
        }
        if (!member) return undefined;
        const { form, type, reexportedAs: keptName } = member;
        return {
          member: form === "type" || form === "factory" ? undefined : member.member,
          factory: form === "factory" ? member.member : member.factory?.member,
          type,
          reexportedAs: keptName,
        };
      },
      specifiers: (source) => {
        const callerEnding = endingOf(source, project.sources, project.program.importEnding());
        return {
          adapter: specifierBetween(source.path, adapterPath, callerEnding),
          target: specifierBetween(source.path, targetPath, callerEnding),
        };
      },
    },
  };
}
