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
