import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { DraftFile } from "../documents/draft-document.ts";

/** Returns a file of a draft, with its state beside what is on the disk. */
export function draftedFile(root: string, name: string, role: DraftFile["role"], text: string): DraftFile {
  const path = join(root, name);
  if (!existsSync(path)) return { file: name, role, state: "new", text };
  return { file: name, role, state: readFileSync(path, "utf8") === text ? "the same" : "kept", text };
}
