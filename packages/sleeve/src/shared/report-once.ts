import { SleeveError, type SleeveErrorCode } from "./errors.ts";
import { host } from "./host.ts";

export type Report = (error: unknown) => void;

/**
 * Creates a function that reports the first failure of a layer or listener: as a process warning in Node.js,
 * as a reported error in browsers.
 */
export function reportOnce(name: string, kind: "layer" | "listener" = "layer"): Report {
  let isReported = false;
  return (cause) => {
    if (isReported) return;
    isReported = true;
    const reason = cause instanceof Error ? cause.message : String(cause);
    const message = `The ${kind} "${name}" failed: ${reason}. Calls continue without it; further failures of it are not reported.`;
    emit(new SleeveError("LAYER_FAILED", message, { cause }));
  };
}

/** The warnings that have been reported, because a program may plan many stacks of the same kind. */
const reported = /* @__PURE__ */ new Set<string>();

/** Reports something that a developer should know and that breaks nothing, once: as a process warning in Node.js, on the console in browsers. */
export function warn(message: string, code: SleeveErrorCode): void {
  if (reported.has(message)) return;
  reported.add(message);
  if (host.process?.emitWarning) host.process.emitWarning(new SleeveError(code, message));
  else host.console?.warn?.(message);
}

function emit(failure: SleeveError): void {
  if (host.process?.emitWarning) host.process.emitWarning(failure);
  else host.reportError?.(failure);
}
