import type { Layer } from "../forward/call.ts";
import { flattened, nodeOf, simplified } from "../forward/stack.ts";
import { requireObject } from "../forward/subject.ts";
import { wrap } from "../forward/wrap.ts";
import { rememberLeftOut, wrappedOf } from "../forward/wrapped.ts";

/** What layers around a subject may keep to: its members and, of a class, also those of the objects it makes. */
export type Layered<Subject> = Subject extends abstract new (
  ...args: never[]
) => infer Made
  ? Subject & Made
  : Subject;

/**
 * Puts layers around the members of an object, a function or a class, and gives back one that is used in the same
 * way. The subject itself is not changed.
 *
 * The first layer listed is the outermost: the client meets it first. Arguments, results, promises and errors
 * pass by identity; `this`, private fields and `instanceof` work as on the subject; a member that gives back the
 * subject gives back the wrapper instead.
 *
 * - Of an **object**, calls that it makes on itself do not pass the layers.
 * - Of a **function**, calls and constructions pass them; its properties show through.
 * - Of a **class**, the result is a subclass: construction, static members and those of its objects pass the
 *   layers, and so do the calls that its objects make on themselves.
 *
 * One subject and one stack have one wrapper. A wrapper that is decorated again is not wrapped twice: the new
 * layers go outside those it has, and layers that say so merge or cancel each other.
 *
 * @throws {SleeveError} `NO_SUBJECT`, `NOT_AN_OBJECT`, or `NO_SUCH_MEMBER` where a layer keeps to members of which it has none
 * @example
 * import { decorate, logging, timing } from "sleeve";
 *
 * const clock = { tick: (seconds: number) => seconds + 1 };
 * const watched = decorate(clock, logging(), timing({ to: (sample) => console.log(sample.milliseconds) }));
 * watched.tick(1);
 */
export function decorate<Subject extends object>(
  subject: Subject,
  ...layers: readonly Layer<Layered<NoInfer<Subject>>>[]
): Subject {
  // A wrapper is used in all the ways in which its subject is, which is what the subject's type describes.
  return (nodeOf(layers).wrappers.get(subject) ?? wrapAnew(subject, layers)) as Subject;
}

function wrapAnew(subject: object, given: readonly Layer<never>[]): object {
  const wrapped = requireObject(subject, nameOf(given), "subject");
  const inner = wrappedOf(wrapped);
  const all = [...flattened(given), ...(inner?.layers ?? [])];
  const stack = simplified(all);
  if (inner && isSame(stack.layers, inner.layers)) return wrapped;
  const isUndone = stack.layers.length === 0 && all.length > 0;
  const bare = inner?.subject ?? wrapped;
  if (isUndone) return bare;
  const wrapper = wrap(bare, stack.layers);
  rememberLeftOut(wrapper, stack);
  return wrapper;
}

function isSame(left: readonly unknown[], right: readonly unknown[]): boolean {
  return left.length === right.length && left.every((each, index) => each === right[index]);
}

function nameOf(layers: readonly Layer<never>[]): string {
  return `decorate(${["…", ...layers.map((layer) => layer.name)].join(", ")})`;
}
