/** Whether an entry of the config is a file, or a folder that it lies in. */
export function covers(entry: string, file: string): boolean {
  return entry.endsWith("/") ? file.startsWith(entry) : file === entry;
}
