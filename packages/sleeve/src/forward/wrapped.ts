import type { Forwarded, Layer } from "./call.ts";
import { Forwarding } from "./forwarding.generated.ts";
import { planned } from "./plan.ts";
import type { Simplified } from "./stack.ts";

/** What the library knows of a wrapper. It never leaves the library: it holds the subject. */
export interface Wrapped {
  readonly subject: object;
  readonly layers: readonly Layer<never>[];
  readonly forwarding: Forwarded;
  /** Why it is forwarded to in this way. */
  readonly why: string;
  /** Asked whenever a client reaches in, by whatever wrapper; throws where it may not any more. */
  readonly gate?: (() => void) | undefined;
}

/** Wrappers that say nothing of themselves by their class: functions, classes, and open ones. */
const known = new WeakMap<object, Wrapped>();

export function remember(wrapper: object, wrapped: Wrapped): void {
  known.set(wrapper, wrapped);
}

/** What is known of a wrapper; `undefined` where the object is none that layers can be put around anew. */
export function wrappedOf(wrapper: object): Wrapped | undefined {
  const found = known.get(wrapper);
  if (found || typeof wrapper === "function") return found;
  const prototype: object | null = Object.getPrototypeOf(wrapper);
  const plan = prototype ? planned.get(prototype) : undefined;
  const subject = plan && Forwarding.subjectOf(wrapper);
  if (!plan || !subject) return undefined;
  const why = "its members were known when it was made";
  return { subject, layers: plan.layers, forwarding: "closed", why };
}

/** Whether an object stands for a subject that is made at first use, with members that are not known before. */
export function isMadeLate(known: Wrapped, port: object): boolean {
  return known.subject === port && known.forwarding === "open";
}

const leftOut = new WeakMap<object, Simplified>();

/** Notes which layers were left out when a wrapper was made. */
export function rememberLeftOut(wrapper: object, simplified: Simplified): void {
  if (simplified.merged.length + simplified.cancelled.length > 0) leftOut.set(wrapper, simplified);
}

export function leftOutOf(wrapper: object): Simplified | undefined {
  return leftOut.get(wrapper);
}

const subjects = new WeakMap<object, WeakSet<object>>();

/** Notes that a subject is found behind an object: wrappers put around that one are around the subject. */
export function stand(subject: object, port: object): void {
  const known = subjects.get(port) ?? new WeakSet();
  subjects.set(port, known.add(subject));
  // Where the subject is a wrapper itself, what it is around may come to light without it.
  const inner = wrappedOf(subject)?.subject;
  if (inner) known.add(inner);
}

/** Notes that all that is found behind a port is found behind an object that was made of it, and so is the port. */
export function standFor(port: object, made: object): void {
  const known = subjects.get(port) ?? new WeakSet();
  subjects.set(port, known.add(port));
  subjects.set(made, known);
}

/** Whether a subject is, or has been, found behind an object. It may be found behind others as well. */
export function isBehind(subject: object, port: object): boolean {
  return subjects.get(port)?.has(subject) ?? false;
}
