// Generated from src/berths/berths.ts#Berths by: npx sleeve wrap src/berths/berths.ts#Berths --as surface --to src/generated/berths-surface.ts --write
// Content 86a4b6e7f044. Run the command again instead of editing this file.

import type { Berths } from "../berths/berths.ts";

/** The members of a `Berths`, with their kinds. */
export const berthsSurface = {
  all: "method",
  book: "method",
  cancel: "method",
  close: "method",
} as const satisfies { readonly [Key in keyof Berths]-?: "method" | "property" };
