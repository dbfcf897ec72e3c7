import type { Ownership } from "../uses/origins.ts";
import { builtInOf, packageNameOf } from "./packages/packages.ts";
import type { ProjectSources } from "./project-sources.ts";

/** Returns which files and modules belong to the packages of interest, and which files are the project's own. */
export function ownershipIn(
  project: ProjectSources,
  isPackageOfInterest: (name: string) => boolean,
  importedAs: Ownership["importedAs"] = () => undefined,
): Ownership {
  return {
    isOfInterest: (path) => {
      const name = project.packageOf(path);
      return name !== undefined && isPackageOfInterest(name);
    },
    isModuleOfInterest: (name) => {
      const owner = builtInOf(name) ?? packageNameOf(name);
      return owner !== undefined && isPackageOfInterest(owner);
    },
    isOwn: (path) => project.isOwn(path),
    importedAs,
  };
}

/** Returns whether a file belongs to an outside module. The language and the runtime do not count. */
export function outsideFilesIn(project: ProjectSources): (path: string) => boolean {
  return (path) => {
    const name = project.packageOf(path);
    return name !== undefined && !RUNTIME.test(name);
  };
}

/** Packages whose types exist without them: those of the language and of the runtime. */
export const RUNTIME = /^(typescript|@typescript\/.*|node|undici-types|sleeve)$/;
