import { printableJson } from "../printable.ts";

/** Formats any result as JSON: equal results give equal bytes. */
export function jsonText(result: unknown): string {
  return `${printableJson(JSON.stringify(result, null, 2))}\n`;
}
