// Reads and parses the files of a folder, and discards the result.
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { parseSync } from "oxc-parser";

const [folder] = process.argv.slice(2);
for (const file of readdirSync(folder)) {
  const path = join(folder, file);
  parseSync(path, readFileSync(path, "utf8"));
}
