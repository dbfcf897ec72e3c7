import { readFileSync, symlinkSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const LIBRARY = join(import.meta.dirname, "../../../sleeve");

const DECLARATION = `
export declare class Cipher { constructor(key: string); encrypt(text: string): string; decrypt(text: string): string }
export declare function open(key: string): Cipher;
export declare function parse(text: string): number;
export declare function halt(code: number): void;
`;

const CODE = `
export class Cipher {
  constructor(key) { this.key = key; }
  encrypt(text) { return this.key + text; }
  decrypt(text) { return text.slice(this.key.length); }
}
export const open = (key) => new Cipher(key);
export const parse = (text) => { if (!/^[0-9]+$/.test(text)) throw new SyntaxError(text + " is no number"); return Number(text); };
export const halt = (code) => process.exit(code);
`;

interface Examples {
  readonly written: number;
  readonly isRun: boolean;
  readonly leftOut: readonly { readonly title: string; readonly why: string }[];
}

/** Drafts a target for \`kit\` as one file uses it, and returns the contract's calls. */
function drafted(main: string, code: string, ...options: readonly string[]) {
  const root = project({
    ...installed("kit", DECLARATION),
    "node_modules/kit/package.json":
      '{ "name": "kit", "version": "1.0.0", "type": "module", "exports": { "types": "./index.d.ts", "default": "./index.js" } }',
    "node_modules/kit/index.js": code,
    "package.json": '{ "name": "office", "type": "module" }',
    "src/main.ts": main,
  });
  symlinkSync(LIBRARY, join(root, "node_modules/sleeve"), "dir");
  const { stdout, stderr, code: exit } = sleeve(root, "draft", "kit", "--write", "--json", ...options);
  const { examples } = JSON.parse(stdout) as { readonly examples: Examples };
  const contract = readFileSync(join(root, "src/kit/kit.contract.ts"), "utf8");
  const calls = [...contract.matchAll(/\(kit\) => (.*?)(?:, error: (\w+) \})?,$/gm)].map(([, call, error]) =>
    error === undefined ? call : `${call} throws ${error}`,
  );
  return { examples, calls, stderr, exit };
}

const USES = `
import { Cipher, halt, open, parse } from "kit";
const cipher = new Cipher("k");
console.log(cipher.encrypt("fog"), cipher.decrypt("kfog"), cipher.encrypt("rain"));
console.log(open("s").encrypt("wind"), parse("12"), parse(process.argv[2] ?? ""));
try { parse("fog"); } catch (error) { console.log(error); }
export const stop = () => halt(3);
`;

const HELD = [
  'kit.createCipher("k").decrypt("kfog")',
  'kit.createCipher("k").encrypt("fog")',
  'kit.open("s").encrypt("wind")',
  'kit.parse("12")',
];

test("every distinct call with literals is an example, on what it returns too", () => {
  const { examples, calls } = drafted(USES, CODE);
  expect([...calls].sort()).toEqual([...HELD, "kit.halt(3)", 'kit.parse("fog")'].sort());
  expect(examples).toEqual({ written: 6, isRun: false, leftOut: [] });
});

test("on request, examples are run: what fails is left out, and a handled error becomes a refusal", () => {
  const { examples, calls } = drafted(USES.replace("halt(3)", 'parse("rain")'), CODE, "--run-examples");
  expect([...calls].sort()).toEqual([...HELD, 'kit.parse("fog") throws SyntaxError'].sort());
  expect(examples).toEqual({
    written: 5,
    isRun: true,
    leftOut: [{ title: "parse, as in src/main.ts, 3", why: "it throws SyntaxError: rain is no number" }],
  });
});

test("an example that ends the process is left out, and the others are run", () => {
  const { examples, calls, exit } = drafted(USES, CODE, "--run-examples");
  expect(exit).toBe(0);
  expect([...calls].sort()).toEqual([...HELD, 'kit.parse("fog") throws SyntaxError'].sort());
  expect(examples.leftOut).toEqual([{ title: "halt, as in src/main.ts", why: "it ends the process" }]);
});

test("a module that cannot be loaded leaves no example, and says why", () => {
  const { examples, calls } = drafted(USES, 'throw new Error("no licence");', "--run-examples");
  expect(calls).toEqual([]);
  expect(new Set(examples.leftOut.map(({ why }) => why))).toEqual(
    new Set(["the module cannot be loaded: no licence"]),
  );
});
