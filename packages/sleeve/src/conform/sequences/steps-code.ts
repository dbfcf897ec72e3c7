import { isPlain } from "../values/equality.ts";
import { valueCode } from "../values/format.ts";
import { isObject } from "../values/schema.ts";
import { Iterated, SELF, type SequenceResult, type StepOutcome } from "./sequence-run.ts";
import { asGenerated, type Step } from "./steps.ts";

/**
 * Returns steps as code for a test, with the expectation of one step. Default: the last. The target is named
 * `subject`.
 */
export function stepsCode(
  steps: readonly Step[],
  { outcomes, reused }: SequenceResult,
  shown: number = steps.length - 1,
): string {
  const used = new Set(reused.values());
  const open: string[] = [];
  const lines = steps.map((step, index) => {
    const call = callText(step, index, reused);
    const outcome = outcomes[index];
    const isLast = index === steps.length - 1;
    if (index === shown && isLast) return expectation(step, call, outcome);
    const isLater = outcome?.status === "resolved" || outcome?.status === "rejected";
    const failed = outcome?.status === "threw" || outcome?.status === "rejected";
    if (!step.isAwaited && (isLater || index === shown)) {
      const name = `call${index + 1}`;
      if (index !== shown) open.push(name);
      return `const ${name} = ${call};`;
    }
    if (failed) return isLater ? `await ${call}.catch(() => {});` : `try { ${call}; } catch {}`;
    const made = isLater ? `await ${call}` : call;
    return used.has(index) ? `const result${index + 1} = ${made};` : `${made};`;
  });
  const step = steps[shown];
  if (step && shown < steps.length - 1) lines.push(expectation(step, `call${shown + 1}`, outcomes[shown]));
  if (open.length > 0) lines.push(`await Promise.allSettled([${open.join(", ")}]);`);
  return lines.join("\n");
}

function callText(
  { operation: { use, key }, args }: Step,
  index: number,
  reused: ReadonlyMap<string, number>,
): string {
  const member = key === undefined ? "subject" : `subject${access(key)}`;
  if (use === "read") return member;
  const texts = args.map((argument, place) => {
    const from = reused.get(`${index}.${place}`);
    if (from !== undefined) return `result${from + 1}`;
    return valueCode(asGenerated(argument));
  });
  return use === "write" ? `${member} = ${texts[0]}` : `${member}(${texts.join(", ")})`;
}

function access(key: string | symbol): string {
  if (typeof key === "symbol") return `[${key.description ?? "symbol"}]`;
  return /^[\p{ID_Start}$_][\p{ID_Continue}$]*$/u.test(key) ? `.${key}` : `[${JSON.stringify(key)}]`;
}

function expectation({ operation: { use } }: Step, call: string, seen: StepOutcome | undefined): string {
  if (use === "write" && seen?.status === "returned") return `${call};`;
  switch (seen?.status) {
    case undefined:
      return `${call};`;
    case "unsettled":
      return `await ${call}; // does not end`;
    case "threw":
      return `expect(() => ${call}).toThrow(${thrown(seen.value)});`;
    case "rejected":
      return `await expect(${call}).rejects.toThrow(${thrown(seen.value)});`;
    case "returned":
      return answered(call, seen.value);
    case "resolved":
      return answered(`await ${call}`, seen.value);
  }
}

function thrown(error: unknown): string {
  return error instanceof Error && error.message ? JSON.stringify(error.message) : "";
}

function answered(call: string, value: unknown): string {
  if (value === SELF) return `expect(${call}).toBe(subject);`;
  if (value instanceof Iterated) return `expect([...(${call})]).toEqual(${listText(value.values)});`;
  if (!isObject(value)) return `expect(${call}).toBe(${valueCode(value)});`;
  if (Array.isArray(value)) return `expect(${call}).toEqual(${listText(value)});`;
  if (value instanceof Date || (typeof value !== "function" && isPlain(value)))
    return `expect(${call}).toEqual(${valueCode(value)});`;
  return `expect(${call}).toBeTypeOf("${typeof value}");`;
}

const MAX_LENGTH = 80;

/** Returns an array literal, with one line per item if it is long. */
function listText(values: readonly unknown[]): string {
  const text = valueCode(values);
  if (text.length <= MAX_LENGTH) return text;
  return `[\n${values.map((value) => `  ${valueCode(value)},\n`).join("")}]`;
}
