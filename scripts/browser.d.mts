/** The Chromium that is there, if any: the one that CHROMIUM_PATH names, or the system's. */
export function browserPath(): string | undefined;
