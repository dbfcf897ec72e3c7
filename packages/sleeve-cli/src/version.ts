/** The version of this package, from its manifest. */
export const VERSION = "0.1.0";
