import type { Layer } from "../forward/call.ts";
import { wrapClass } from "../forward/closed/wrap-class.ts";
import { type ClassEngine, isConstructedClass } from "../forward/wrap.ts";
import { SleeveError } from "../shared/errors.ts";
import { describeValue } from "../shared/options.ts";
import { requireNoContext, rewrap } from "./decorate.ts";

/** The members that layers around a subject may name: its own and, for a class, those of its instances. */
export type Layered<Subject> = Subject extends abstract new (
  ...args: never[]
) => infer Made
  ? Subject & Made
  : Subject;

/**
 * Applies layers to a class. The result is a subclass. Construction, static members and instance members pass through the
 * layers, and so do calls that instances make on themselves.
 *
 * Everything else is as for {@link decorate}. It is a function of its own, so that bundles without it are smaller.
 *
 * @throws {SleeveError} `NOT_A_CLASS`, and as {@link decorate} does
 * @example
 * import { decorateClass, logging } from "sleeve";
 *
 * class Winch { haul(metres: number): number { return metres; } }
 * const Watched = decorateClass(Winch, logging());
 * new Watched().haul(3);
 */
export function decorateClass<Subject extends abstract new (...args: never[]) => object>(
  subject: Subject,
  ...layers: readonly Layer<Layered<NoInfer<Subject>>>[]
): Subject {
  if (!isConstructedClass(subject))
    throw new SleeveError(
      "NOT_A_CLASS",
      `decorateClass: the subject is ${describeValue(subject)}, and not a class. Use decorate(…).`,
    );
  requireNoContext(layers);
  // The subclass can be used in every way the class can.
  return rewrap(subject, layers, wrapClass as unknown as ClassEngine) as Subject;
}
