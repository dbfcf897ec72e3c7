import { totalmem } from "node:os";
import { API, type FileSystem } from "./typescript.ts";

/**
 * The compiler process keeps everything it has read, so the default frequency of garbage collection costs a
 * third of its time for nothing. Near half of the machine's memory, it collects more often anyway.
 */
const COMPILER_SETTINGS = { GOGC: "400", GOMEMLIMIT: `${Math.floor(totalmem() / 2 ** 21)}MiB` };

/** Starts the compiler with these settings, unless the environment has its own. */
export function startCompiler(folder: string, files?: FileSystem): API {
  const added = Object.entries(COMPILER_SETTINGS).filter(([name]) => process.env[name] === undefined);
  for (const [name, value] of added) process.env[name] = value;
  try {
    const api = new API({ cwd: folder, ...(files && { fs: files }) });
    surviveFailures(api);
    keepAnswers(api);
    return api;
  } finally {
    for (const [name] of added) delete process.env[name];
  }
}

type CompilerRequest = (method: string, params: unknown) => unknown;

/** Internals of the compiler's API that are used here. */
interface ClientHost {
  client?: {
    channel?: { child?: { readonly pid?: number; kill(signal: "SIGKILL"): void } };
    apiRequest?: CompilerRequest;
  };
}

const failures = new WeakMap<API, string[]>();

/** Errors of requests at which the compiler failed. */
export function failuresOf(api: API): readonly string[] {
  return failures.get(api) ?? [];
}

/**
 * The compiler can fail at a request, for example about the type of `[]`, and continue with the next. The
 * other requests of a failed batch are sent again, and the failed one has no answer.
 */
function surviveFailures(api: API): void {
  const { client } = api as unknown as ClientHost;
  const request = client?.apiRequest?.bind(client);
  if (!client || !request) return;
  const panics: string[] = [];
  failures.set(api, panics);
  client.apiRequest = (method, params) => {
    try {
      return request(method, params);
    } catch (error) {
      const [message = ""] = error instanceof Error ? error.message.split("\n") : [];
      if (!message.startsWith("panic: ")) throw error;
      const [key, items] = Object.entries(params ?? {}).find(([, value]) => Array.isArray(value)) ?? [];
      if (key !== undefined && (items as readonly unknown[]).length > 1) {
        const single = (item: unknown) =>
          client.apiRequest?.(method, { ...(params as object), [key]: [item] }) as readonly unknown[];
        return (items as readonly unknown[]).flatMap(single);
      }
      if (!EMPTY_TUPLE.test(message)) panics.push(message.slice("panic: ".length));
      if (key !== undefined) return [null];
      return LIST_REQUESTS.test(method) ? [] : undefined;
    }
  };
}

/**
 * Questions about types and symbols whose answers stay the same as long as their snapshot. The client sends them again each
 * time, and a request takes a tenth of a millisecond.
 */
const KEPT: ReadonlySet<string> = new Set([
  "getAliasedSymbol",
  "getDeclaredTypeOfSymbol",
  "getDocumentationComment",
  "getIndexInfosOfType",
  "getPropertiesOfType",
  "getReturnTypeOfSignature",
  "getSignaturesOfType",
  "getTypeArguments",
  "getTypePredicateOfSignature",
  "getTypesOfSymbols",
  "getTypesOfType",
  "isArrayType",
  "isTupleType",
]);

/** Keeps the answers to such questions until the client releases their snapshot. */
function keepAnswers(api: API): void {
  const { client } = api as unknown as ClientHost;
  const request = client?.apiRequest?.bind(client);
  if (!client || !request) return;
  const bySnapshot = new Map<unknown, Map<string, unknown>>();
  client.apiRequest = (method, params) => {
    const { snapshot } = (params ?? {}) as { readonly snapshot?: unknown };
    if (method === "release") bySnapshot.delete(snapshot);
    if (!KEPT.has(method)) return request(method, params);
    const answers = bySnapshot.get(snapshot) ?? new Map<string, unknown>();
    bySnapshot.set(snapshot, answers);
    const key = `${method} ${JSON.stringify(params)}`;
    if (!answers.has(key)) answers.set(key, request(method, params));
    return answers.get(key);
  };
}

/** The error for requests about the type of `[]`, which has nothing to miss. */
const EMPTY_TUPLE = /^panic: interface conversion: .*TypeReference, not \*checker\.TupleType/;

/** `getSignaturesOfType`, `getBaseTypes`. */
const LIST_REQUESTS = /^get[A-Za-z]*?s(?:$|Of|At|In)(?=[A-Z]|$)/;

export function processIdOf(api: API): number | undefined {
  return (api as unknown as ClientHost).client?.channel?.child?.pid;
}

/**
 * Ends the compiler process with a signal. If it is closed regularly, it writes "context canceled" to the
 * shared standard error; it has nothing to save.
 */
export function endCompiler(api: API): void {
  const { client } = api as unknown as ClientHost;
  client?.channel?.child?.kill("SIGKILL");
  try {
    api.close();
  } catch {
    // It releases what it has open in the process, which has ended.
  }
}
