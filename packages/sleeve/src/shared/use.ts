/**
 * How a member is used. A function is used by `call`, a class by `construct`. `list` decides whether a member
 * is listed; all modes but closed forwarding call it.
 */
export type Use = "call" | "read" | "write" | "construct" | "list";
