/** Formats any result as JSON: equal results give equal bytes. */
export function jsonText(result: unknown): string {
  return `${JSON.stringify(result, null, 2)}\n`;
}
