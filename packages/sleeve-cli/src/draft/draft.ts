import type { Draft } from "../documents/draft-document.ts";

import type { CopiedType } from "../types/copied-types.ts";

/** Returns the copied types, by what they replace. */
export function typesReplaced(types: readonly CopiedType[]): Draft["types"] {
  return types.map(({ name, outsideName }) => ({ type: name, replaces: outsideName }));
}
