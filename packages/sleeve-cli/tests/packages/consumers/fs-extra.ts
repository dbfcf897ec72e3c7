import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fs from "fs-extra";

const folder = mkdtempSync(join(tmpdir(), "ledger-"));
await fs.outputJson(join(folder, "berths/one.json"), { vessel: "Curlew" }, { spaces: 1 });
const { vessel } = await fs.readJson(join(folder, "berths/one.json"));
console.log(vessel, await fs.pathExists(join(folder, "tugs")));
await fs.copy(join(folder, "berths"), join(folder, "copy"), { overwrite: false, filter: (from) => !from.endsWith(".tmp") });
console.log((await fs.readdir(join(folder, "copy"))).join());
await fs.ensureDir(join(folder, "a/b"));
fs.writeFileSync(join(folder, "a/b/c.txt"), "fog");
console.log(fs.readFileSync(join(folder, "a/b/c.txt"), "utf8"), fs.existsSync(folder));
await fs.move(join(folder, "copy/one.json"), join(folder, "two.json"));
console.log(fs.readJsonSync(join(folder, "two.json")).vessel, (await fs.stat(folder)).isDirectory());
await fs.remove(folder);
console.log(fs.existsSync(folder));
