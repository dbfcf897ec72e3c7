import { existsSync, realpathSync } from "node:fs";
import { dirname, isAbsolute, join, relative, resolve } from "node:path";

/** Whether a path, which need not exist, lies in a folder, also after symbolic links are followed. */
export function isWithin(folder: string, path: string): boolean {
  const absolute = resolve(folder, path);
  let existing = absolute;
  while (!existsSync(existing) && dirname(existing) !== existing) existing = dirname(existing);
  const real = join(realpathSync(existing), relative(existing, absolute));
  return leadsWithin(relative(folder, absolute)) && leadsWithin(relative(realpathSync(folder), real));
}

function leadsWithin(path: string): boolean {
  return !/^\.\.(?:[/\\]|$)/.test(path) && !isAbsolute(path);
}
