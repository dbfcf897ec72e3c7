import { spawnSync } from "node:child_process";

/**
 * The files in a folder that are not as they were last committed, new ones among them, by their paths from it; `undefined`
 * where the folder is in no repository.
 */
export function changedIn(folder: string): readonly string[] | undefined {
  const list = (...args: readonly string[]) => {
    const { status, stdout } = spawnSync("git", args, { cwd: folder, encoding: "utf8" });
    return status === 0 ? stdout.split("\0").filter((line) => line !== "") : undefined;
  };
  const fresh = list("ls-files", "--others", "--exclude-standard", "-z");
  if (!fresh) return undefined;
  // Before the first commit all that is there is new.
  const changed = list("diff", "--name-only", "--relative", "-z", "HEAD") ?? list("ls-files", "-z") ?? [];
  return [...new Set([...fresh, ...changed])].sort();
}

/**
 * The files in a folder that have changes which are not committed; untracked ones do not count, as they are not touched.
 * `undefined` where the folder is in no repository.
 */
export function uncommittedIn(folder: string): readonly string[] | undefined {
  const { status, stdout } = spawnSync(
    "git",
    ["status", "--porcelain", "-z", "--untracked-files=no", "--", "."],
    {
      cwd: folder,
      encoding: "utf8",
    },
  );
  if (status !== 0) return undefined;
  return stdout
    .split("\0")
    .filter((line) => line !== "")
    .map((line) => line.slice(3));
}
