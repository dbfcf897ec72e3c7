import type { Layer } from "../forward/call.ts";
import { findWrapper } from "../forward/first-wrapper.ts";
import { flatten, internStack, type NormalizedStack, normalize } from "../forward/layer-stack.ts";
import { requireObject } from "../forward/subject.ts";
import { type ClassEngine, isConstructedClass, wrap } from "../forward/wrap.ts";
import { recordOf, recordOmittedLayers } from "../forward/wrapper-record.ts";
import { SleeveError } from "../shared/errors.ts";

/**
 * Applies layers to the members of an object, or to a function, and returns a wrapper that is used in the same way. The subject itself is not changed.
 *
 * The first layer is the outermost: the client meets it first. Arguments, results, promises and errors pass
 * by identity. `this`, private fields and `instanceof` work as on the subject. A member that returns the
 * subject returns the wrapper.
 *
 * - **Object**: calls that the object makes on itself do not pass through the layers.
 * - **Function**: calls and constructions pass through them; its properties are forwarded.
 * - **Class**: use {@link decorateClass}.
 *
 * One subject and one stack have one wrapper. Decorating a wrapper does not wrap twice: the new layers go
 * outside the existing ones, and idempotent or self-inverse layers merge or cancel.
 *
 * @throws {SleeveError} `NO_SUBJECT`, `NOT_AN_OBJECT`; `NO_SUCH_MEMBER` if the subject has none of the members that a layer
 * names; `NO_CONTEXT` if a layer needs the context of a request
 * @example
 * import { decorate, logging, timing } from "sleeve";
 *
 * const clock = { tick: (seconds: number) => seconds + 1 };
 * const watched = decorate(clock, logging(), timing({ onSample: (sample) => console.log(sample.milliseconds) }));
 * watched.tick(1);
 */
export function decorate<Subject extends object>(
  subject: Subject,
  ...layers: readonly Layer<NoInfer<Subject>>[]
): Subject {
  const wrapper =
    typeof subject === "object" && subject !== null && findWrapper(subject, internStack(layers));
  if (!wrapper) {
    requireNoContext(layers);
    if (isConstructedClass(subject)) throw needsClass(subject as unknown as { readonly name: string });
  }
  // A wrapper can be used in every way its subject can, which is what the subject's type says.
  return (wrapper || rewrap(subject, layers)) as Subject;
}

export function requireNoContext(layers: readonly Layer<never>[]): void {
  const needing = flatten(layers).find(({ needsContext }) => needsContext);
  if (needing)
    throw new SleeveError(
      "NO_CONTEXT",
      `decorate: the layer "${needing.name}" needs the context of a request. Use inContext(subject, …), and pass the context to the function that it returns.`,
    );
}

function needsClass({ name }: { readonly name: string }): SleeveError {
  return new SleeveError(
    "NEEDS_CLASS",
    `decorate: the subject is the class ${name}. Use decorateClass(${name || "Class"}, …).`,
  );
}

/** Wraps a subject, or adds layers to a wrapper. */
export function rewrap(subject: object, value: readonly Layer<never>[], classEngine?: ClassEngine): object {
  const record = recordOf(requireObject(subject, () => nameOf(value), "subject"));
  const node = internStack(value);
  if (!record) return wrapIn(node.normalized, subject, classEngine);
  if (record.layers.length === 0) return wrapIn(node.normalized, record.subject, classEngine);
  const stack = normalize([...flatten(value), ...record.layers]);
  return isSame(stack.layers, record.layers) ? subject : wrapIn(stack, record.subject, classEngine);
}

function wrapIn(stack: NormalizedStack, bare: object, classEngine: ClassEngine | undefined): object {
  if (stack.isUndone) return bare;
  internStack(stack.layers).warnOfConflicts();
  const wrapper = wrap(bare, stack.layers, classEngine);
  recordOmittedLayers(wrapper, stack);
  return wrapper;
}

function isSame(left: readonly unknown[], right: readonly unknown[]): boolean {
  return left.length === right.length && left.every((leftItem, index) => leftItem === right[index]);
}

function nameOf(layers: readonly Layer<never>[]): string {
  return `decorate(${["…", ...layers.map((layer) => layer.name)].join(", ")})`;
}
