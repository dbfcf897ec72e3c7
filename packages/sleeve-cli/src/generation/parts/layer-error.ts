/** Creates an error of a layer, with the code that it has in the library too. */
export function layerError(code: string, message: string, cause?: unknown): Error {
  const error = Object.assign(new Error(message), { name: "SleeveError", code });
  return cause === undefined ? error : Object.assign(error, { cause });
}
