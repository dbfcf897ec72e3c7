import { spawnSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

test("standard decorators apply the same layers to a class, its methods and its accessors", () => {
  const folder = mkdtempSync(join(import.meta.dirname, ".decorated-"));
  try {
    writeFileSync(
      join(folder, "winch.ts"),
      `import { decorated, layer } from "sleeve";
const met: string[] = [];
const note = (name: string) => layer(name, {
call: (next, { label }) => (call) => { met.push(\`\${name} \${label}\`); return next(call); },
read: (next, { label }) => (call) => { met.push(\`\${name} read \${label}\`); return next(call); },
construct: (next) => (call) => { met.push(\`\${name} new\`); return next(call); },
});
@decorated(note("outer"))
class Winch {
#load = 4;
@decorated(note("inner")) haul(metres: number): number { return metres + this.#load; }
@decorated(note("inner")) get load(): number { return this.#load; }
@decorated(note("inner")) static make(): Winch { return new Winch(); }
}
const winch = Winch.make();
console.log(JSON.stringify([winch.haul(1), winch.load, Winch.name, winch instanceof Winch, met]));
`,
    );
    const tsc = join(import.meta.dirname, "../../../../node_modules/typescript/bin/tsc");
    const options = [
      "--ignoreConfig",
      "--target",
      "es2022",
      "--module",
      "nodenext",
      "--strict",
      "--types",
      "",
      join(folder, "winch.ts"),
    ];
    expect(spawnSync(process.execPath, [tsc, ...options], { encoding: "utf8" }).stdout).toBe("");
    const { stdout, stderr } = spawnSync(process.execPath, [join(folder, "winch.js")], {
      encoding: "utf8",
    });
    expect(stderr).toBe("");
    expect(JSON.parse(stdout)).toEqual([
      5, 4, "Winch", true,
      ["outer make", "inner make", "outer new", "outer haul", "inner haul", "outer read load", "inner read load"],
    ]); // biome-ignore format: rows
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
