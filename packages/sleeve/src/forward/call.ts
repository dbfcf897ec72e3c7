import type { Member } from "../surface/member.ts";

/** One use of a member, as the layers see it on its way to the subject. */
export interface Call {
  readonly member: Member;
  /** The arguments of a call, the new value of a write, nothing for a read. */
  readonly args: readonly unknown[];
  /** The wrapper that the client holds. */
  readonly wrapper: object;
}

/** Carries a call on towards the subject and gives back what the subject answers. */
export type Next = (call: Call) => unknown;

/** The three ways in which a member is used. */
export type Use = "call" | "read" | "write";

/**
 * One behaviour around members of a subject.
 *
 * Write one with {@link layer}. `Target` is what it can be put around; a layer that names no members fits all.
 */
export interface Layer<in Target = unknown> {
  readonly name: string;
  /**
   * Asked once for each member and use, when a stack is planned; never in a call.
   * Gives back `next` itself to stay off the member's path.
   */
  around(next: Next, member: Member, use: Use): Next;
  /** The members it was told to keep to, so that a misspelt one is found out when the stack is planned. */
  readonly only?: readonly (keyof Target)[] | undefined;
}
