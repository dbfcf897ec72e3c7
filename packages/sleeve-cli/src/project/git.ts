import { spawnSync } from "node:child_process";

/** A repository's config may name programs that git would run. */
const NO_HOOKS = [
  "--no-optional-locks",
  "-c",
  "core.fsmonitor=false",
  "-c",
  "core.hooksPath=/dev/null",
] as const;

/**
 * Returns the files in a folder that differ from the last commit, including new ones, relative to it;
 * `undefined` outside a repository.
 */
export function changedFilesIn(folder: string): readonly string[] | undefined {
  const list = (...args: readonly string[]) => {
    const { status, stdout } = spawnSync("git", [...NO_HOOKS, ...args], { cwd: folder, encoding: "utf8" });
    return status === 0 ? stdout.split("\0").filter((line) => line !== "") : undefined;
  };
  const fresh = list("ls-files", "--others", "--exclude-standard", "-z");
  if (!fresh) return undefined;
  // Before the first commit, all files are new.
  const changed = list("diff", "--name-only", "--relative", "-z", "HEAD") ?? list("ls-files", "-z") ?? [];
  return [...new Set([...fresh, ...changed])].sort();
}

/** Returns the files in a folder that are tracked or not ignored, relative to it; `undefined` outside a repository. */
export function unignoredFilesIn(folder: string): readonly string[] | undefined {
  const { status, stdout } = spawnSync(
    "git",
    [...NO_HOOKS, "ls-files", "--cached", "--others", "--exclude-standard", "-z"],
    { cwd: folder, encoding: "utf8", maxBuffer: 1 << 28 },
  );
  return status === 0 ? stdout.split("\0").filter((file) => file !== "") : undefined;
}

/** Returns the tracked files in a folder with uncommitted changes; `undefined` outside a repository. */
export function uncommittedFilesIn(folder: string): readonly string[] | undefined {
  const { status, stdout } = spawnSync(
    "git",
    [...NO_HOOKS, "status", "--porcelain", "-z", "--untracked-files=no", "--", "."],
    {
      cwd: folder,
      encoding: "utf8",
    },
  );
  if (status !== 0) return undefined;
  const files: string[] = [];
  const entries = stdout.split("\0");
  for (let index = 0; index < entries.length; index++) {
    const entry = entries[index] as string;
    if (entry === "") continue;
    files.push(entry.slice(3));
    // The entry after a renamed or copied file is its former name.
    if (/^[RC]|^.[RC]/.test(entry)) index += 1;
  }
  return files;
}
