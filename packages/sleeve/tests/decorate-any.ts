import { decorate, decorateClass, type Layer, type Layered } from "sleeve";

/** Decorates an object, a function or a class, for tests whose subjects are of all kinds. */
export function decorateAny<Subject extends object>(
  subject: Subject,
  ...layers: readonly Layer<Layered<NoInfer<Subject>>>[]
): Subject {
  const isClass = typeof subject === "function" && /^class\b|\{ \[native code\] \}$/.test(String(subject));
  const isConstructed = isClass && Object.hasOwn(subject, "prototype");
  return isConstructed
    ? decorateClass(subject as never, ...(layers as readonly Layer<never>[]))
    : decorate(subject, ...(layers as readonly Layer[]));
}
