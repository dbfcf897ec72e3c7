import type { FindingName } from "../finding.ts";
import { access } from "../sequences/steps-code.ts";
import { literal } from "../values/format.ts";
import { isIterator } from "../values/schema.ts";
import { type Probe, type ProbeResult, type Scripted, THIS } from "./probe.ts";

/**
 * Returns a single call with a scripted subject as code for a test. `create` creates a subject, and `wrap` wraps it. The code
 * passes with a wrapper that returns its subject, and fails with the one that was checked.
 */
export function probeCode(
  name: FindingName,
  { operation: { key }, args }: Probe,
  does: Scripted,
  { subject, reached }: ProbeResult,
): string | undefined {
  // A function, or an object that cannot be changed, has to be wrapped by another object first.
  if (typeof key !== "string" || !Object.isExtensible(subject) || typeof subject === "function")
    return undefined;
  const expected = expectation(name, does, reached.length);
  const input = "gives" in does && does.gives !== THIS ? does.gives : undefined;
  if (!expected || isIterator(input)) return undefined;
  const list = `[${args.map(literal).join(", ")}]`;
  const member = access(key);
  return [
    "const subject = await create();",
    `const args = ${list};`,
    "fails" in does ? `const error = ${literal(does.fails)};` : `const result = ${resultText(does.gives)};`,
    "const calls = [];",
    `subject${member} = function (...given) {`,
    "  calls.push({ receiver: this, given });",
    `  ${body(does)}`,
    "};",
    "const wrapper = await wrap(subject);",
    ...call(name, `wrapper${member}(...args)`),
    name === "mutated" ? `expect(args).toEqual(${list});` : expected,
  ].join("\n");
}

/** Calls the wrapper, as far as the expectation needs the outcome. */
function call(name: FindingName, text: string): readonly string[] {
  switch (name) {
    case "order":
      return [`try { ${text}; } catch {}`];
    case "async":
      return [
        "let returned;",
        `try { returned = ${text}; } catch {}`,
        "if (returned instanceof Promise) returned.catch(() => {});",
      ];
    case "argument":
    case "calls":
    case "mutated":
    case "receiver":
      return [`try { await ${text}; } catch {}`];
    default:
      return ["let value, failure;", `try { value = await ${text}; } catch (thrown) { failure = thrown; }`];
  }
}

function resultText(value: unknown): string {
  return value === THIS ? "undefined" : literal(value);
}

function body(does: Scripted): string {
  if ("fails" in does) return does.isLater ? "return Promise.reject(error);" : "throw error;";
  const value = does.gives === THIS ? "this" : "result";
  return does.isLater ? `return Promise.resolve(${value});` : `return ${value};`;
}

function expectation(name: FindingName, does: Scripted, reached: number): string | undefined {
  switch (name) {
    case "mutated":
      return "";
    case "argument":
      return "expect(calls[0].given.length === args.length && args.every((item, at) => Object.is(item, calls[0].given[at]))).toBe(true);";
    case "calls":
      return "expect(calls).toHaveLength(1);";
    case "order":
      // A deferred call. Whether a promise is early depends on when the subject's settles.
      return does.isLater || reached === 0 ? undefined : "expect(calls).toHaveLength(1);";
    case "receiver":
      return "expect(calls[0].receiver).toBe(subject);";
    case "async":
      return `expect(returned instanceof Promise).toBe(${does.isLater});`;
    case "error":
      return "fails" in does ? "expect(failure).toBe(error);" : "expect(failure).toBe(undefined);";
    case "fluent":
    case "leak":
      return "expect(value).toBe(wrapper);";
    case "result":
      return "gives" in does ? "expect(value).toBe(result);" : undefined;
    default:
      return undefined;
  }
}
