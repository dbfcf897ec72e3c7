import { existsSync, statSync } from "node:fs";
import { basename, dirname, join, relative, sep } from "node:path";
import type { OpenProject } from "../../project/open-project.ts";

const TEST_FOLDERS = ["tests", "test", "__tests__", "spec"];

/**
 * Returns the path of a contract, where the project's tests are: in its folder of tests; else beside the target, if tests
 * stand beside what they test or nothing is built; else in a new folder of tests.
 *
 * @param beside the path beside the target, relative to the root
 * @param isBuilt whether a build would compile the file beside the target
 */
export function contractPlace({ root, sources }: OpenProject, beside: string, isBuilt: boolean): string {
  const folder = packageFolderOf(root, join(root, beside));
  const within = (name: string) =>
    relative(root, join(folder, name, basename(beside)))
      .split(sep)
      .join("/");
  const tests = TEST_FOLDERS.find((name) => isFolder(join(folder, name)));
  if (tests !== undefined) return within(tests);
  const hasTestsBeside = sources.some(({ file }) => /\.(?:test|spec)\.[cm]?[jt]sx?$/.test(file));
  return hasTestsBeside || !isBuilt ? beside : within("tests");
}

/** Whether a file is in a folder of tests. */
export function isAmongTests(file: string): boolean {
  return file.split("/").some((part) => TEST_FOLDERS.includes(part));
}

/** Returns the innermost folder with a manifest. */
function packageFolderOf(root: string, path: string): string {
  for (let folder = dirname(path); folder.length > root.length; folder = dirname(folder))
    if (existsSync(join(folder, "package.json"))) return folder;
  return root;
}

function isFolder(path: string): boolean {
  return statSync(path, { throwIfNoEntry: false })?.isDirectory() === true;
}
