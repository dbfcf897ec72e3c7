import { existsSync } from "node:fs";

/** The Chromium that is there, if any: the one that CHROMIUM_PATH names, or the system's. */
export function browserPath() {
  const paths = [
    process.env.CHROMIUM_PATH,
    "/usr/bin/chromium",
    "/usr/bin/chromium-browser",
    "/usr/bin/google-chrome",
  ];
  return paths.find((path) => path && existsSync(path));
}
