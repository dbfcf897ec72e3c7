import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { CliError } from "../../errors.ts";
import { type GivenPackage, readPackage } from "./package-files.ts";

/** Time for a download, in milliseconds. */
const TIMEOUT = 120_000;

/**
 * Reads a package from a folder, a tarball, or a registry: `kit@2`.
 *
 * @throws {CliError} `NO_PACKAGE`
 */
export function givenPackage(against: string, root: string): GivenPackage {
  return isVersionOf(against) ? fetchPackage(against, root) : readPackage(against);
}

/** Whether a text names a version of a package, such as `kit@2` or `@port/kit@next`, rather than a path. */
function isVersionOf(text: string): boolean {
  return /^(?:@[\w.-]+\/)?[\w.-]+@[^/\\]+$/.test(text) && !existsSync(text);
}

/**
 * Downloads a version of a package with npm, which reads the project's registry settings. No script of the package
 * runs.
 *
 * @throws {CliError} `NO_PACKAGE`
 */
export function fetchPackage(specifier: string, root: string): GivenPackage {
  const folder = mkdtempSync(join(tmpdir(), "sleeve-package-"));
  try {
    const { status, stderr } = spawnSync(
      "npm",
      ["pack", specifier, "--ignore-scripts", "--pack-destination", folder, "--loglevel", "error"],
      { cwd: root, encoding: "utf8", timeout: TIMEOUT },
    );
    const [tarball] = readdirSync(folder).filter((file) => file.endsWith(".tgz"));
    if (status !== 0 || tarball === undefined) {
      const reason = /npm (?:error|ERR!) (?!code )(.+)/.exec(stderr)?.[1] ?? "npm gives no reason";
      throw new CliError(
        "NO_PACKAGE",
        `${specifier} cannot be downloaded: ${reason.replace(/\.$/, "")}. Name an existing version, or pass a folder or tarball.`,
      );
    }
    return readPackage(join(folder, tarball));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
