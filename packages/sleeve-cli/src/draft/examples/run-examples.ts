import { spawn } from "node:child_process";
import { once } from "node:events";
import type { Outline } from "../outline/model.ts";
import type { DraftedExample } from "./examples.ts";

/** What an example did when it was run against the outside module. */
export type ExampleOutcome =
  | { readonly kind: "returned" }
  | { readonly kind: "threw"; readonly error: string; readonly isBuiltIn: boolean; readonly message: string }
  | { readonly kind: "not run"; readonly why: string };

/** Deadline of one promise, and of one process, in milliseconds. */
const EXAMPLE_TIMEOUT = 2_000;
const PROCESS_TIMEOUT = 10_000;

/** Maximum number of processes, because an example may end its own or never return. */
const MAX_PROCESSES = 4;

/**
 * Runs examples against an outside module itself, in a process of its own that is killed after 10 seconds. Nothing
 * that the module prints is shown.
 *
 * @param folder folder from which the module is resolved
 */
export async function runExamples(
  outline: Outline,
  examples: readonly DraftedExample[],
  folder: string,
): Promise<ReadonlyMap<DraftedExample, ExampleOutcome>> {
  const outcomes = new Map<DraftedExample, ExampleOutcome>();
  let open = examples;
  for (let count = 1; open.length > 0; count++) {
    const { found, failure, hasLoaded } = await runInProcess(outline, open, folder);
    for (const [example, outcome] of found) outcomes.set(example, outcome);
    open = open.filter((example) => !outcomes.has(example));
    // The next one is the example that ended the process.
    const isLast = !hasLoaded || count === MAX_PROCESSES;
    for (const example of isLast ? open : open.slice(0, 1))
      outcomes.set(example, { kind: "not run", why: failure });
    open = open.filter((example) => !outcomes.has(example));
  }
  return outcomes;
}

interface ProcessResult {
  readonly found: ReadonlyMap<DraftedExample, ExampleOutcome>;
  /** Why the others did not run. */
  readonly failure: string;
  readonly hasLoaded: boolean;
}

async function runInProcess(
  { object, members }: Outline,
  examples: readonly DraftedExample[],
  folder: string,
): Promise<ProcessResult> {
  const found = new Map<DraftedExample, ExampleOutcome>();
  const values = members.filter(({ form }) => form !== "type");
  const plan = {
    object,
    timeout: EXAMPLE_TIMEOUT,
    specifiers: [...new Set(values.map(({ specifier }) => specifier))],
    members: values.map(({ specifier, export: name, member, form, factory }) => ({
      specifier,
      name,
      member,
      makes: form === "factory" ? member : factory?.member,
    })),
    calls: examples.map(({ call }) => call),
  };
  const child = spawn(process.execPath, ["--input-type=module", "-e", RUNNER], {
    cwd: folder,
    stdio: ["ignore", "ignore", "ignore", "ipc"],
  });
  let failure = "it ends the process";
  let hasLoaded = true;
  child.on("message", (message) => {
    const { index, outcome, failed } = message as {
      index?: number;
      outcome?: ExampleOutcome;
      failed?: string;
    };
    const example = index === undefined ? undefined : examples[index];
    if (example && outcome) found.set(example, outcome);
    if (failed === undefined) return;
    failure = failed;
    hasLoaded = false;
  });
  child.on("error", ({ message }) => {
    failure = message;
    hasLoaded = false;
  });
  const timer = setTimeout(() => {
    failure = `it does not end within ${PROCESS_TIMEOUT / 1000} seconds`;
    child.kill("SIGKILL");
  }, PROCESS_TIMEOUT);
  child.send(plan, () => {});
  await once(child, "close");
  clearTimeout(timer);
  return { found, failure, hasLoaded };
}

/** The program of the process: builds the object that the adapter would, and runs the calls one by one. */
const RUNNER = `
process.once("message", async ({ object, timeout, specifiers, members, calls }) => {
  let target;
  try {
    const modules = {};
    for (const specifier of specifiers) modules[specifier] = await import(specifier);
    target = {};
    for (const { specifier, name, member, makes } of members) {
      const module = modules[specifier];
      const value = name === "default" ? module.default : (module[name] ?? module.default?.[name]);
      if (member === "") target = value;
      else if (makes !== member) target[member] = value;
      if (makes !== undefined) target[makes] = (...given) => new value(...given);
    }
  } catch (error) {
    const failed = "the module cannot be loaded: " + String(error?.message ?? error).split("\\n")[0];
    await new Promise((sent) => process.send({ failed }, sent));
    process.exit();
  }
  for (const [index, call] of calls.entries()) {
    let outcome;
    try {
      const late = new Promise((_, reject) => setTimeout(reject, timeout, new Error("it takes longer than 2 seconds")).unref());
      await Promise.race([new Function(object, "return " + call)(target), late]);
      outcome = { kind: "returned" };
    } catch (error) {
      const name = error?.constructor?.name ?? typeof error;
      const message = String(error?.message ?? error).split("\\n")[0];
      outcome = { kind: "threw", error: name, isBuiltIn: globalThis[name] === error?.constructor, message };
    }
    await new Promise((sent) => process.send({ index, outcome }, sent));
  }
  process.exit();
});
`;
