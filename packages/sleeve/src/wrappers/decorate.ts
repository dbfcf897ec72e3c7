import type { Layer } from "../forward/call.ts";
import { wrapperOf } from "../forward/first-wrapper.ts";
import { flattened, nodeOf, type Simplified, simplified } from "../forward/stack.ts";
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
  const found = typeof subject === "object" && subject !== null && wrapperOf(subject, nodeOf(layers));
  return (found || wrapAnew(subject, layers)) as Subject;
}

function wrapAnew(subject: object, given: readonly Layer<never>[]): object {
  const known = wrappedOf(requireObject(subject, () => nameOf(given), "subject"));
  const node = nodeOf(given);
  if (!known) return wrapIn(node.shortest, subject);
  if (known.layers.length === 0) return wrapIn(node.shortest, known.subject);
  const stack = simplified([...flattened(given), ...known.layers]);
  return isSame(stack.layers, known.layers) ? subject : wrapIn(stack, known.subject);
}

function wrapIn(stack: Simplified, bare: object): object {
  if (stack.isUndone) return bare;
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
