/** The version of this package, from its manifest. */
export const VERSION = "0.1.0";

/** Where the documentation is published; a reserved name, until it is. Schemas have their identifiers there too. */
export const DOCUMENTATION = "https://sleeve.invalid/docs";
