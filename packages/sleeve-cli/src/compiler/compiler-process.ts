import { totalmem } from "node:os";
import type { FileSystem } from "typescript/unstable/fs";
import { API } from "typescript/unstable/sync";

/**
 * The compiler's process holds what it has read for as long as it lives, so that to collect its garbage as often as a process
 * of its kind does by default takes a third of its time for nothing. Near half of the machine's memory it does so all the same.
 */
const COMPILER_SETTINGS = { GOGC: "400", GOMEMLIMIT: `${Math.floor(totalmem() / 2 ** 21)}MiB` };

/** Starts the compiler, with the settings unless whoever runs us has made their own. */
export function startCompiler(folder: string, files?: FileSystem): API {
  const added = Object.entries(COMPILER_SETTINGS).filter(([name]) => process.env[name] === undefined);
  for (const [name, value] of added) process.env[name] = value;
  try {
    const api = new API({ cwd: folder, ...(files && { fs: files }) });
    surviveFailures(api);
    return api;
  } finally {
    for (const [name] of added) delete process.env[name];
  }
}

type Ask = (method: string, params: unknown) => unknown;

/** What lies within the interface that the compiler offers, as far as it is reached for here. */
interface Within {
  client?: { channel?: { child?: { kill(signal: "SIGKILL"): void } }; apiRequest?: Ask };
}

const failures = new WeakMap<API, string[]>();

/** What the compiler said of questions at which it failed. */
export function failuresOf(api: API): readonly string[] {
  return failures.get(api) ?? [];
}

/**
 * The compiler can fail at a question, at every one about the type of `[]` for instance, and goes on with the next. So do we:
 * of many that were asked at once, the others are asked again, and that one has no answer.
 */
function surviveFailures(api: API): void {
  const { client } = api as unknown as Within;
  const ask = client?.apiRequest?.bind(client);
  if (!client || !ask) return;
  const told: string[] = [];
  failures.set(api, told);
  client.apiRequest = (method, params) => {
    try {
      return ask(method, params);
    } catch (error) {
      const [first = ""] = error instanceof Error ? error.message.split("\n") : [];
      if (!first.startsWith("panic: ")) throw error;
      const [key, all] = Object.entries(params ?? {}).find(([, each]) => Array.isArray(each)) ?? [];
      if (key !== undefined && (all as readonly unknown[]).length > 1) {
        const single = (each: unknown) =>
          client.apiRequest?.(method, { ...(params as object), [key]: [each] }) as readonly unknown[];
        return (all as readonly unknown[]).flatMap(single);
      }
      if (!EMPTY_TUPLE.test(first)) told.push(first.slice("panic: ".length));
      if (key !== undefined) return [null];
      return ANSWERS_MANY.test(method) ? [] : undefined;
    }
  };
}

/** What the compiler says where it was about to answer with the type of `[]`, in which there is nothing to miss. */
const EMPTY_TUPLE = /^panic: interface conversion: .*TypeReference, not \*checker\.TupleType/;

/** `getSignaturesOfType`, `getBaseTypes`. */
const ANSWERS_MANY = /^get[A-Za-z]*?s(?:$|Of|At|In)(?=[A-Z]|$)/;

/**
 * Ends the compiler's process. One that is asked to end writes "context canceled" to the standard error that it
 * shares with us, so it is ended without asking; it has nothing to save.
 */
export function endCompiler(api: API): void {
  const { client } = api as unknown as Within;
  client?.channel?.child?.kill("SIGKILL");
  api.close();
}
