import { readFileSync } from "node:fs";
import { readRecord } from "./file-records.ts";

// A process that parses one file, whose stack may not suffice: it may end without output.
const [path = ""] = process.argv.slice(2);
const text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
process.stdout.write(JSON.stringify(readRecord(path, text)));
