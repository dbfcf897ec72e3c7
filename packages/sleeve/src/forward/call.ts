import type { Use } from "../shared/use.ts";
import type { Member } from "../surface/member.ts";

/** One use of a member, as layers see it. `Context` is the data of a request, for layers that are used with {@link inContext}. */
export interface Call<out Context = unknown> {
  readonly member: Member;
  /** Arguments of a call, the new value of a write, empty for a read. */
  readonly args: readonly unknown[];
  /**
   * The wrapper that the client holds. For a decorated function, the `this` of the call; for a construction,
   * the class being constructed.
   */
  readonly wrapper: object;
  /** The context that `inContext` was called with; otherwise `undefined`. */
  readonly context: Context;
}

/** Passes a call on to the next layer or the subject, and returns the result. */
export type Next<in Context = unknown> = (call: Call<Context>) => unknown;

/** Creates a wrapper that is an ES `Proxy`. */
export type OpenEngine = (subject: object, options: OpenOptions) => object;

export interface OpenOptions {
  readonly forwarding: Exclude<ForwardingMode, "closed">;
  readonly layers: readonly Layer<never>[];
  /** Called on each access by the client. Throws if access has been revoked. */
  readonly gate?: (() => void) | undefined;
  /** Whether the subject represents one that is created on first use. */
  readonly isCreatedLate: boolean;
}

/** How a wrapper reaches its subject; see `explain`. */
export type ForwardingMode = "closed" | "open" | "deep" | "sealed";

/** What is wrong with an order of two layers. */
export interface OrderConflict {
  /**
   * - `hides`: the inner layer misses calls.
   * - `repeats`: calls are repeated that should not be, or are seen several times.
   * - `limits`: a limit of one call applies to several.
   */
  readonly effect: "hides" | "repeats" | "limits";
  /** A sentence without its end. */
  readonly text: string;
}

/**
 * One behaviour around members of a subject.
 *
 * Create one with {@link layer}. `Target` is what it can be applied to; a layer that names no members can be
 * applied to anything. `Context` is the data that it needs of each request; a layer that needs any can only be used with
 * {@link inContext}.
 */
export interface Layer<in Target = unknown, in Context = unknown> {
  readonly name: string;
  /**
   * Called once for each member and use when a stack is planned, never during a call. Returns `next` to leave
   * the member alone. `isPrivate` says that no code outside the library has the argument lists of the calls.
   */
  around(next: Next, member: Member, use: Use, isPrivate?: boolean): Next;
  /** Names of the members that the layer is restricted to, so that planning can detect a misspelt one. */
  readonly only?: readonly (keyof Target)[] | undefined;
  /** Applying it twice equals applying it once, so one of two adjacent ones is dropped. */
  readonly idempotent?: boolean | undefined;
  /** Applying it twice equals not applying it, so two adjacent ones are both dropped. */
  readonly selfInverse?: boolean | undefined;
  /** It may answer a call itself, so layers inside it do not see every call. */
  readonly mayShortCircuit?: boolean | undefined;
  /** It is only useful if it sees every call. */
  readonly observesAll?: boolean | undefined;
  /**
   * Whether the members that `only` lists return promises, so that an error of the layer rejects from the first call on.
   * Default: a member rejects if it is declared `async`, or after it has returned a promise.
   */
  readonly asyncMembers?: boolean | undefined;
  /** Whether the layer may make calls fail. */
  readonly mayFail?: boolean | undefined;
  /** Whether the layer leaves reads and the list of members alone, so that open wrappers read members without looking. */
  readonly ignoresReads?: boolean | undefined;
  /** Whether the layer needs the context of a request, so that it can only be used with `inContext`. */
  readonly needsContext?: boolean | undefined;
  /** Whether the layer may hide members, so that it has to know who looks. */
  readonly hides?: boolean | undefined;
  /** Whether the layer may refuse a call: throw or reject without calling `next`. */
  readonly rejects?: boolean | undefined;
  /** Whether the layer may call `next` several times in a call: after errors, or after results. */
  readonly repeats?: "errors" | "results" | undefined;
  /** Whether the layer limits how long calls take, or how many are in flight. */
  readonly limits?: boolean | undefined;
  /** Whether the layer watches calls. */
  readonly watches?: boolean | undefined;
  /** Returns what is wrong with having another layer inside this one, if anything is. */
  readonly conflictWith?: ((inner: Layer<never>) => OrderConflict | undefined) | undefined;
  /** The forwarding mode that the layer requires. Default: closed. */
  readonly forwarding?: Exclude<ForwardingMode, "closed"> | undefined;
  /** Creates the wrapper, if the layer requires a forwarding mode. */
  readonly engine?: OpenEngine | undefined;
  /** The layers that a stack consists of. */
  readonly layers?: readonly Layer<Target, Context>[] | undefined;
  /** Carries the type; the property does not exist at run time. */
  readonly needs?: (context: Context) => void;
}
