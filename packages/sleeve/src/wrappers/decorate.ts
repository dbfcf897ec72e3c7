import type { Layer } from "../forward/call.ts";
import { planStack } from "../forward/plan.ts";
import { shapeOf } from "../forward/shape.ts";
import { requireObject } from "../forward/subject.ts";

/**
 * Puts layers around the members of an object, and gives back an object with the same members.
 *
 * The first layer listed is the outermost: the client meets it first. Arguments, results, promises and errors
 * pass by identity; `this`, private fields and `instanceof` work as on the subject; a member that gives back the
 * subject gives back the wrapper instead. The subject itself is not changed, and calls that it makes on itself
 * do not pass the layers. Members are settled when a class of subjects is first wrapped: one that is added to
 * the subject afterwards is not forwarded.
 *
 * @param subject an object or an instance of a class; arrays, functions and classes are not wrapped yet
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
  ...layers: readonly Layer<NoInfer<Subject>>[]
): Subject {
  const wrapped = requireObject(subject, nameOf(layers), "subject");
  // The plan gives every member of the subject's shape, which is what its type describes.
  return planStack(shapeOf(wrapped), layers)(wrapped) as Subject;
}

function nameOf(layers: readonly Layer<never>[]): string {
  return `decorate(${["…", ...layers.map((layer) => layer.name)].join(", ")})`;
}
