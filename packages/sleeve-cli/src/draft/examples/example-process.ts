import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { createJiti } from "jiti";
import { reasonOf, startProgram } from "../../project/child-processes/child-program.ts";
import type { CallOutcome, ExampleResult, ExamplesTask } from "./run-examples.ts";

// A process that builds the object that an adapter would, and runs calls of it one by one.

type Values = Record<string, unknown>;

const { input, send } = startProgram<ExamplesTask>();
const { object, timeout, calls } = input;
const loaded = await load(input);
if ("unloaded" in loaded) send(loaded satisfies ExampleResult);
else
  for (const [index, call] of calls.entries())
    send({ index, outcome: await outcomeOf(call, loaded.target) } satisfies ExampleResult);
process.exit(0);

async function load({
  specifiers,
  members,
  folder,
}: ExamplesTask): Promise<{ readonly target: unknown } | { readonly unloaded: string }> {
  try {
    const modules = new Map<string, Values>();
    for (const specifier of specifiers) modules.set(specifier, await importFrom(folder, specifier));
    let targetValue: unknown;
    const target: Values = {};
    for (const { specifier, name, member, makes, property } of members) {
      const module = modules.get(specifier) ?? {};
      const standard = module["default"] as Values | undefined;
      const isModule = name === "default" || name === "export=";
      const exported = isModule ? standard : (module[name] ?? standard?.[name]);
      const value = property === undefined ? exported : memberOf(exported as Values, property);
      if (member === "") targetValue = value;
      else if (makes !== member) target[member] = value;
      const construct = value as new (...list: unknown[]) => unknown;
      if (makes !== undefined) target[makes] = (...list: unknown[]) => new construct(...list);
    }
    return { target: targetValue ?? target };
  } catch (error) {
    return { unloaded: `the module cannot be loaded: ${reasonOf(error)}` };
  }
}

/** Returns a member of an export; a function keeps its receiver. */
function memberOf(exported: Values, property: string): unknown {
  const value = exported[property];
  return typeof value === "function" ? value.bind(exported) : value;
}

/** Imports a module as a file of the project would. */
async function importFrom(folder: string, specifier: string): Promise<Values> {
  const { esmResolve } = createJiti(pathToFileURL(join(folder, "_.mjs")).href);
  return (await import(esmResolve(specifier))) as Values;
}

/** Runs one call. A promise may take two seconds. */
async function outcomeOf(call: string, target: unknown): Promise<CallOutcome> {
  try {
    const late = new Promise((_, reject) =>
      setTimeout(reject, timeout, new Error(`it takes longer than ${timeout / 1000} seconds`)).unref(),
    );
    await Promise.race([new Function(object, `return ${call}`)(target), late]);
    return { kind: "returned" };
  } catch (error) {
    const thrown = (error ?? {}) as { readonly constructor?: { readonly name?: string } };
    const name = thrown.constructor?.name ?? typeof error;
    const isBuiltIn = (globalThis as Values)[name] === thrown.constructor;
    return { kind: "threw", error: name, isBuiltIn, message: reasonOf(error) };
  }
}
