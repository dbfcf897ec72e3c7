/** The version of this package, as its manifest has it. */
export const VERSION = "0.1.0";
