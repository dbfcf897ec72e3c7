import { SleeveError } from "../errors.ts";
import { host } from "../host.ts";

export type Report = (error: unknown) => void;

/** Tells of a layer's own failure once: as a process warning in Node.js, as a reported error in the browser. */
export function reportOnce(name: string): Report {
  let isReported = false;
  return (cause) => {
    if (isReported) return;
    isReported = true;
    const reason = cause instanceof Error ? cause.message : String(cause);
    const message = `The layer "${name}" failed in its own work: ${reason}. The calls it is on go on; further failures of it are not reported.`;
    const failure = new SleeveError("LAYER_FAILED", message, { cause });
    if (host.process?.emitWarning) host.process.emitWarning(failure);
    else host.reportError?.(failure);
  };
}
