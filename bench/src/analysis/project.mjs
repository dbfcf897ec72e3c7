import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";

const VENDOR = `
export interface Reading { feet: number; at: string }
export declare class Gauge {
  constructor(id: string);
  name: string;
  read(then: (error: Error | null, reading?: Reading) => void): void;
  on(event: string, then: (reading: Reading) => void): this;
}
export declare function sum(values: number[], start?: number): number;
`;

/**
 * Kinds of projects:
 * - `plain`: one file in ten uses an outside package, and types are cheap to check;
 * - `everywhere`: every file uses the package;
 * - `heavy`: as `plain`, with recursive conditional, mapped and template types in each file;
 * - `javascript`: as `plain`, in JavaScript with JSDoc types.
 *
 * Writes a project of one kind. Returns its folder.
 */
export function generateProject(fileCount, kind = "plain") {
  const root = join(import.meta.dirname, `../../dist/project-${kind}-${fileCount}`);
  rmSync(root, { recursive: true, force: true });
  const write = (file, text) => writeFileSync(join(root, file), text);
  mkdirSync(join(root, "node_modules/vendor"), { recursive: true });
  mkdirSync(join(root, "src"));
  write(
    "node_modules/vendor/package.json",
    '{ "name": "vendor", "version": "1.0.0", "types": "index.d.ts" }',
  );
  write("node_modules/vendor/index.d.ts", VENDOR);
  write("package.json", '{ "name": "generated", "type": "module", "dependencies": { "vendor": "1.0.0" } }');
  const compilerOptions = {
    strict: true,
    module: "nodenext",
    target: "es2023",
    noEmit: true,
    skipLibCheck: true,
    types: [],
    ...(kind === "javascript" && { allowJs: true, checkJs: true, strict: false }),
  };
  write("tsconfig.json", JSON.stringify({ compilerOptions, include: ["src"] }));
  for (let index = 0; index < fileCount; index++) {
    const code = moduleSource(index, kind);
    if (kind === "javascript") write(`src/module${index}.js`, withoutTypes(code));
    else write(`src/module${index}.ts`, code);
  }
  write("src/target.ts", "export interface Level { metres(): Promise<number> }\n");
  write(
    "src/wrapper.ts",
    "export class GaugeLevel {\n  async metres(): Promise<number> {\n    return 1;\n  }\n}\n",
  );
  write(
    "sleeve.config.ts",
    `export default {
  targets: { "src/target.ts#Level": ["src/wrapper.ts#GaugeLevel"] },
  borders: { vendor: ["src/wrapper.ts"] },
};
`,
  );
  return root;
}

function moduleSource(index, kind) {
  const isOutside = kind === "everywhere" || index % 10 === 0;
  const before = index - 1;
  const imports = [
    isOutside && 'import { Gauge, sum, type Reading } from "vendor";',
    index > 0 && `import { first${before}, type State${before} } from "./module${before}.js";`,
  ];
  const functions = Array.from(
    { length: 6 },
    (_, at) => `
export function step${index}_${at}(state: State${index}, factor: number): number {
  const scaled = state.list.map((value) => value * factor + ${at}).filter((value) => value > ${at});
  let total = 0;
  for (const value of scaled) {
    total += value;
    if (total > 1000) total = Math.min(total, state.label.length + ${index});
  }
  return total + state.amount;
}`,
  );
  return `${imports.filter(Boolean).join("\n")}

export interface State${index} {
  amount: number;
  label: string;
  list: readonly number[];
  ${isOutside ? "reading?: Reading;" : ""}
}
${kind === "heavy" ? heavyTypes(index) : ""}
${functions.join("\n")}

export function first${index}(state: State${index}): number {
  ${index > 0 ? `const earlier: State${before} = { amount: state.amount, label: state.label, list: state.list };` : ""}
  ${isOutside ? "const gauge = new Gauge(state.label);\n  gauge.on('x', (reading) => sum([reading.feet])).read((_, reading) => reading && sum([reading.feet], 1));" : ""}
  return ${index > 0 && index % 50 !== 0 ? `first${before}(earlier) + ` : ""}step${index}_0(state, 2);
}
`;
}

/** Types that take the compiler several times as long as the rest of a file. */
function heavyTypes(index) {
  return `
type Paths${index}<Value, Depth extends readonly unknown[] = []> = Depth["length"] extends 5
  ? never
  : { [Key in keyof Value & string]: Value[Key] extends object ? Key | \`\${Key}.\${Paths${index}<Value[Key], [...Depth, Key]>}\` : Key }[keyof Value & string];
type At${index}<Value, Path extends string> = Path extends \`\${infer Key}.\${infer Rest}\`
  ? Key extends keyof Value ? At${index}<Value[Key], Rest> : never
  : Path extends keyof Value ? Value[Path] : never;
interface Tree${index} { a: { b: { c: { d: number; e: string }; f: State${index} }; g: boolean[] }; h: { i: { j: { k: Date } } }; l${index}: string }
declare function at${index}<Path extends Paths${index}<Tree${index}>>(tree: Tree${index}, path: Path): At${index}<Tree${index}, Path>;
export function looked${index}(tree: Tree${index}): number {
  const found = { depth: at${index}(tree, "a.b.c.d"), name: at${index}(tree, "a.b.c.e"), day: at${index}(tree, "h.i.j.k"), own: at${index}(tree, "l${index}") };
  return found.depth + found.name.length + found.day.getTime() + found.own.length;
}`;
}

/** The module in JavaScript: the types of functions become JSDoc. */
function withoutTypes(code) {
  return code
    .replace(/export interface \w+ \{[^}]*\}/g, "")
    .replace(/,? ?type \w+/g, "")
    .replace(/import \{ (\w+) \} from "\.\/module(\d+)\.js";/g, 'import { $1 } from "./module$2.js";')
    .replace(
      /export function (\w+)\(state: \w+(, factor: number)?\): number \{/g,
      (_, name, factor) =>
        `/** @param {{ amount: number, label: string, list: readonly number[] }} state${factor ? " @param {number} factor" : ""} @returns {number} */\nexport function ${name}(state${factor ? ", factor" : ""}) {`,
    )
    .replace(/const earlier: \w+ =/g, "const earlier =");
}
