/**
 * Writes packages/sleeve/src/forward/forwarding.generated.ts.
 *
 * The reason for the repetition is in sites.ts beside it; the figures are in docs/engine.md.
 */
import { writeFileSync } from "node:fs";

const places = {
  calls: {
    count: 1024,
    code: '(k) => function (...a) { const s = this.#s, r = s[k]!(...a); return typeof r === "object" && r === s ? this : r; }',
  },
  passes: {
    count: 256,
    code: '(k) => (c) => { const w = c.wrapper as Forwarding, a = c.args, l = a.length, s = w.#s, r = l === 1 ? s[k]!(a[0]) : l === 2 ? s[k]!(a[0], a[1]) : l === 0 ? s[k]!() : l === 3 ? s[k]!(a[0], a[1], a[2]) : s[k]!(...a); return typeof r === "object" && r === s ? w : r; }',
  },
  reads: {
    count: 256,
    code: '(k, m) => function () { const s = this.#s, r: unknown = s[k]; return typeof r === "object" ? (r === s ? this : r) : typeof r === "function" && m ? m(this) : r; }',
  },
  writes: { count: 64, code: "(k) => function (v) { (this.#s as Writable)[k] = v; }" },
  translations: { count: 256, code: "(f) => function (...a) { return f(this.#s, ...a); }" },
};

const types = {
  calls: "((key: PropertyKey) => Site)[]",
  passes: "((key: PropertyKey) => Next)[]",
  reads: "((key: PropertyKey, method: ((wrapper: object) => unknown) | undefined) => Site)[]",
  writes: "((key: PropertyKey) => Site)[]",
  translations: "((translation: (adaptee: object, ...args: unknown[]) => unknown) => Site)[]",
};

export function forwardingSource() {
  const lists = Object.entries(places).map(
    ([name, { count, code }]) =>
      `  static readonly ${name}: readonly ${types[name]} = [\n${`    ${code},\n`.repeat(count)}  ];\n`,
  );
  return `// Written by scripts/write-forwarding.mjs. Do not edit: see sites.ts for what it is and why.

import type { Next } from "./call.ts";

type Site = (this: Forwarding, ...args: unknown[]) => unknown;
type Subject = Record<PropertyKey, (...args: readonly unknown[]) => unknown>;
type Writable = Record<PropertyKey, unknown>;

/** Holds the subject of a wrapper where only forwarding functions reach it. */
export class Forwarding {
  readonly #s: Subject;

  constructor(subject: object) {
    this.#s = subject as Subject;
  }

  /** What a wrapper forwards to, or \`undefined\` where the object is not one. */
  static subjectOf(wrapper: object): object | undefined {
    return #s in wrapper ? wrapper.#s : undefined;
  }

${lists.join("\n")}}
`;
}

if (process.argv[1] === import.meta.filename) {
  const file = new URL("../packages/sleeve/src/forward/closed/forwarding.generated.ts", import.meta.url);
  writeFileSync(file, forwardingSource());
}
