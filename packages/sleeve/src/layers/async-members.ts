import type { Member } from "../surface/member.ts";

/** A target whose named members return promises: what an asynchronous layer can be applied to. */
export type AsyncMembers<Key extends PropertyKey> = {
  readonly [Each in Key]: (...args: never[]) => PromiseLike<unknown>;
};

/** Options of a layer that needs members that return promises. */
export interface AsyncMembersOptions<Key extends PropertyKey> {
  /**
   * Members that the layer applies to: names of members that return promises, or a predicate. Other results
   * pass unchanged. Default: all members.
   */
  readonly only?: readonly Key[] | ((member: Member) => boolean);
}
