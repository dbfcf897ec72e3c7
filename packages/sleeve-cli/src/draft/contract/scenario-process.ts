import { createJiti } from "jiti";
import { reasonOf, startProgram } from "../../project/child-processes/child-program.ts";
import type { ScenarioOutcome, ScenarioResult, ScenariosTask } from "./run-scenarios.ts";
import { sourceOfValue } from "./value-source.ts";

// A process that loads an adapter and runs scenarios on its object, one by one.

/** What contracts import from the library. */
const THROWN_BY = `
const thrownBy = (run) => {
  try {
    const result = run();
    return result instanceof Promise ? result.then(() => undefined, (error) => error) : undefined;
  } catch (error) {
    return error;
  }
};`;

const { input, send } = startProgram<ScenariosTask>();
const loaded = await load(input);
if ("unloaded" in loaded) send(loaded satisfies ScenarioResult);
else
  for (const [index, code] of input.scenarios.entries())
    send({ index, outcome: await repeated(code, loaded.target) } satisfies ScenarioResult);
process.exit(0);

async function load({
  adapterPath,
  adapter,
  object,
}: ScenariosTask): Promise<{ readonly target: unknown } | { readonly unloaded: string }> {
  try {
    const jiti = createJiti(adapterPath, { fsCache: false });
    const evaluated = await jiti.evalModule(adapter, { filename: adapterPath, async: true });
    return { target: (evaluated as Record<string, unknown>)[object] };
  } catch (error) {
    return { unloaded: `the adapter cannot be loaded: ${reasonOf(error)}` };
  }
}

/** Runs a scenario twice. What differs is not recorded. */
async function repeated(code: string, target: unknown): Promise<ScenarioOutcome> {
  const [before, after] = [await outcomeOf(code, target), await outcomeOf(code, target)];
  const isEqual = JSON.stringify(before) === JSON.stringify(after);
  return isEqual || before.kind === "threw" ? before : { kind: "returned", results: undefined };
}

async function outcomeOf(code: string, target: unknown): Promise<ScenarioOutcome> {
  const values: unknown[] = [];
  try {
    const late = new Promise<never>((_, reject) =>
      setTimeout(
        reject,
        input.timeout,
        new Error(`it takes longer than ${input.timeout / 1000} seconds`),
      ).unref(),
    );
    const use = await functionOf(code);
    await Promise.race([addValues(use(target), values), late]);
    return { kind: "returned", results: sourcesOf(values) };
  } catch (error) {
    const thrown = (error ?? {}) as { readonly constructor?: { readonly name?: string } };
    const name = thrown.constructor?.name ?? typeof error;
    return { kind: "threw", error: name, message: reasonOf(error), results: sourcesOf(values) };
  }
}

/** Returns a scenario as a function. Its code may have types. */
async function functionOf(code: string): Promise<(object: unknown) => unknown> {
  const jiti = createJiti(input.adapterPath, { fsCache: false });
  const text = `${THROWN_BY}\nexport default ${code};`;
  const evaluated = await jiti.evalModule(text, {
    filename: `${input.adapterPath}.scenario.ts`,
    async: true,
  });
  return (evaluated as { readonly default: (object: unknown) => unknown }).default;
}

function sourcesOf(values: readonly unknown[]): readonly string[] | undefined {
  const sources = values.flatMap((value) => sourceOfValue(value) ?? []);
  return sources.length === values.length ? sources : undefined;
}

/** Adds what a generator yields, or the only result. */
async function addValues(result: unknown, values: unknown[]): Promise<void> {
  const isGenerator = /^\[object (?:Async)?Generator\]$/.test(Object.prototype.toString.call(result));
  if (!isGenerator) values.push(await result);
  else for await (const value of result as AsyncIterable<unknown>) values.push(value);
}
