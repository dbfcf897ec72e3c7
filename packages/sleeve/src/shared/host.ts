/**
 * The host APIs that the library uses when they exist. They belong to the host, not to the language, so each
 * may be missing.
 */
interface Host {
  readonly Buffer?: abstract new (...args: never[]) => object;
  readonly AbortController?: new () => { readonly signal: object };
  readonly Headers?: new (init?: unknown) => HostHeaders;
  readonly URL?: new (text: string) => object;
  readonly console?: {
    info(...data: unknown[]): void;
    error(...data: unknown[]): void;
    warn?(...data: unknown[]): void;
  };
  readonly performance?: {
    now(): number;
    measure?(name: string, options: { start: number; end: number; detail: unknown }): unknown;
  };
  readonly process?: {
    cpuUsage?(): { readonly user: number; readonly system: number };
    emitWarning?(warning: Error): void;
    getActiveResourcesInfo?(): readonly string[];
    getBuiltinModule?(name: string): unknown;
    listeners?(event: string): ((error: unknown) => void)[];
    on?(event: string, listener: (error: unknown) => void): void;
    removeListener?(event: string, listener: (error: unknown) => void): void;
    removeAllListeners?(event: string): void;
  };
  readonly reportError?: (error: unknown) => void;
  readonly setImmediate?: (run: () => void) => unknown;
  readonly setTimeout?: (run: () => void, milliseconds: number) => unknown;
  readonly clearTimeout?: (timer: unknown) => void;
}

/** The methods of `Headers` that the library needs. */
export interface HostHeaders {
  get(name: string): string | null;
  set(name: string, value: string): void;
  keys(): Iterable<string>;
}

export const host = globalThis as unknown as Host;
