/** Creates a function that prints the first failure of a layer. The calls that it watches are not affected. */
export function reportOnce(layer: string): (cause: unknown) => void {
  let isReported = false;
  return (cause) => {
    if (isReported) return;
    isReported = true;
    const { console } = globalThis as {
      readonly console?: { warn(message: string, cause: unknown): void };
    };
    console?.warn(
      `The layer "${layer}" failed. Calls continue without it; further failures are not reported.`,
      cause,
    );
  };
}
