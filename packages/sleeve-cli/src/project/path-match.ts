/** Whether a config entry is a file, or a folder that contains it. */
export function pathMatches(entry: string, file: string): boolean {
  return entry.endsWith("/") ? file.startsWith(entry) : file === entry;
}
