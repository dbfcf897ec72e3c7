import type { Member } from "../surface/member.ts";

/** What a layer that has to wait can be put around: the members that it keeps to give promises. */
export type Promising<Key extends PropertyKey> = {
  readonly [Each in Key]: (...args: never[]) => PromiseLike<unknown>;
};

/** Options of a layer that has to wait. */
export interface PromisingOptions<Key extends PropertyKey> {
  /**
   * The members that the layer is on: by name, of members that give promises, or those that a function says. All of them,
   * unless given. What gives no promise is left alone.
   */
  readonly only?: readonly Key[] | ((member: Member) => boolean);
}
