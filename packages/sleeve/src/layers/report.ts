import { SleeveError } from "../errors.ts";
import { host } from "../host.ts";

export type Report = (error: unknown) => void;

/** Tells of the own failure of a layer, or of a listener, once: as a process warning in Node.js, as a reported error in the browser. */
export function reportOnce(name: string, kind: "layer" | "listener" = "layer"): Report {
  let isReported = false;
  return (cause) => {
    if (isReported) return;
    isReported = true;
    const reason = cause instanceof Error ? cause.message : String(cause);
    const message = `The ${kind} "${name}" failed in its own work: ${reason}. The calls it is on go on; further failures of it are not reported.`;
    const failure = new SleeveError("LAYER_FAILED", message, { cause });
    if (host.process?.emitWarning) host.process.emitWarning(failure);
    else host.reportError?.(failure);
  };
}
