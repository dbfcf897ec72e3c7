import { existsSync } from "node:fs";

/** Returns the path of Chromium, from CHROMIUM_PATH or the system, if there is one. */
export function browserPath() {
  const paths = [
    process.env.CHROMIUM_PATH,
    "/usr/bin/chromium",
    "/usr/bin/chromium-browser",
    "/usr/bin/google-chrome",
  ];
  return paths.find((path) => path && existsSync(path));
}
