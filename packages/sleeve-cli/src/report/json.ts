/** Any result as JSON: the same result gives the same bytes. */
export function jsonText(result: unknown): string {
  return `${JSON.stringify(result, null, 2)}\n`;
}
