/** Errors of the compiler about what is declared and not used. */
export const UNUSED: ReadonlySet<number> = new Set([6133, 6138, 6192, 6196, 6198]);
