/**
 * What the library may use of the place it runs in, where there is one. These are the host's and not the
 * language's, so each may be missing.
 */
interface Host {
  readonly console?: { info(...data: unknown[]): void; error(...data: unknown[]): void };
  readonly performance?: { now(): number };
  readonly process?: { emitWarning?(warning: Error): void };
  readonly reportError?: (error: unknown) => void;
}

export const host = globalThis as unknown as Host;
