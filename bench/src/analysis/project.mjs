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

/** Writes a project in which one file in ten uses an outside package. Returns its folder. */
export function generateProject(fileCount) {
  const root = join(import.meta.dirname, `../../dist/project-${fileCount}`);
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
  };
  write("tsconfig.json", JSON.stringify({ compilerOptions, include: ["src"] }));
  for (let index = 0; index < fileCount; index++) write(`src/module${index}.ts`, moduleSource(index));
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

function moduleSource(index) {
  const isOutside = index % 10 === 0;
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
${functions.join("\n")}

export function first${index}(state: State${index}): number {
  ${index > 0 ? `const earlier: State${before} = { amount: state.amount, label: state.label, list: state.list };` : ""}
  ${isOutside ? "const gauge = new Gauge(state.label);\n  gauge.on('x', (reading) => sum([reading.feet])).read((_, reading) => reading && sum([reading.feet], 1));" : ""}
  return ${index > 0 && index % 50 !== 0 ? `first${before}(earlier) + ` : ""}step${index}_0(state, 2);
}
`;
}
