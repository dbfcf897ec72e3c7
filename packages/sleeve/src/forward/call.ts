import type { Member } from "../surface/member.ts";

/** One use of a member, as the layers see it on its way to the subject. */
export interface Call {
  readonly member: Member;
  /** The arguments of a call, the new value of a write, nothing for a read. */
  readonly args: readonly unknown[];
  /**
   * The wrapper that the client holds. Of a decorated function it is the `this` that the client called it with,
   * and of a construction the class that is constructed.
   */
  readonly wrapper: object;
}

/** Carries a call on towards the subject and gives back what the subject answers. */
export type Next = (call: Call) => unknown;

/**
 * The ways in which a member is used. A function is used by `call`, and a class by `construct`; `list` asks
 * whether a member shows when members are listed, which all but closed forwarding ask their layers.
 */
export type Use = "call" | "read" | "write" | "construct" | "list";

/** How a wrapper reaches its subject; see `explain`. */
export type Forwarded = "closed" | "open" | "deep" | "sealed";

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
  /** Twice is the same as once, so that of two in a row one is left out. */
  readonly idempotent?: boolean | undefined;
  /** Twice is the same as not at all, so that two in a row are both left out. */
  readonly selfInverse?: boolean | undefined;
  /** It may answer a call itself, so that layers inside it do not meet that call. */
  readonly mayAnswer?: boolean | undefined;
  /** Its work is worth something only if every call comes by. */
  readonly meetsEveryCall?: boolean | undefined;
  /** The forwarding that it needs to keep its word. */
  readonly forwarding?: Exclude<Forwarded, "closed"> | undefined;
  /** The layers that a stack stands for. */
  readonly layers?: readonly Layer<Target>[] | undefined;
}
