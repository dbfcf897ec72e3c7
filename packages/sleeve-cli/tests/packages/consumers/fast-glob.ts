import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fg, { type Entry, type Options } from "fast-glob";

const cwd = mkdtempSync(join(tmpdir(), "notices-"));
mkdirSync(join(cwd, "old"));
for (const name of ["fog.md", "rain.md", "old/ice.md", "log.txt"]) writeFileSync(join(cwd, name), "x");

const options: Options = { cwd, ignore: ["old/**"], onlyFiles: true };
console.log((await fg("**/*.md", options)).sort().join());
console.log(fg.sync(["**/*", "!*.txt"], { cwd, deep: 2 }).sort().join());
const entries: Entry[] = await fg("*.txt", { cwd, objectMode: true, stats: true });
console.log(entries.map(({ name, stats }) => `${name} ${stats?.size}`).join());
console.log(fg.isDynamicPattern("*.md"), fg.escapePath("a(b)"));
for await (const file of fg.stream("rain.md", { cwd })) console.log(String(file));
rmSync(cwd, { recursive: true });
