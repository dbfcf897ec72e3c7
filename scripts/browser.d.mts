/** Returns the path of Chromium, from CHROMIUM_PATH or the system, if there is one. */
export function browserPath(): string | undefined;
