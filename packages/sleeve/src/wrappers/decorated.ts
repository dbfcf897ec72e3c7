import type { Layer } from "../forward/call.ts";
import { methodThrough, throughLayers } from "../forward/plan.ts";
import { flattened } from "../forward/stack.ts";
import type { Member } from "../surface/member.ts";
import type { AnyFunction } from "./adapter.ts";
import { decorate } from "./decorate.ts";

/** What a standard decorator is told of what it is on. */
export interface DecoratorContext {
  readonly kind: "class" | "method" | "getter" | "setter" | "field" | "accessor";
  readonly name?: string | symbol | undefined;
  readonly static?: boolean;
}

type Decoratable = AnyFunction | (abstract new (...args: never[]) => object);

/**
 * The same as {@link decorate} in the syntax of standard (TC39) decorators: on a class, or on single methods,
 * getters and setters of one. The first layer listed is the outermost.
 *
 * @throws {TypeError} on a field or an `accessor`, which a decorator of this kind cannot put layers around
 * @example
 * import { decorated, logging, timing } from "sleeve";
 *
 * \@decorated(logging())
 * class Winch {
 *   \@decorated(timing({ to: (sample) => console.log(sample.milliseconds) }))
 *   haul(metres: number): number { return metres; }
 * }
 * new Winch().haul(3);
 */
export function decorated(
  ...layers: readonly Layer[]
): <Value extends Decoratable>(value: Value, context: DecoratorContext) => Value {
  return <Value extends Decoratable>(value: Value, context: DecoratorContext): Value => {
    switch (context.kind) {
      case "class":
        return decorate(value as Decoratable & object, ...layers) as Value;
      case "method":
      case "getter":
      case "setter":
        // Of these kinds it is a function and no class.
        return layered(value as Extract<Value, AnyFunction>, context, flattened(layers));
      default:
        throw new TypeError(
          `decorated(…) was put on the ${context.kind} ${String(context.name)}. Put it on a method, a getter, a setter or the class.`,
        );
    }
  };
}

const USES = { method: "call", getter: "read", setter: "write" } as const;

function layered<Value extends AnyFunction>(
  value: Value,
  context: DecoratorContext,
  layers: readonly Layer<never>[],
): Value {
  const kind = context.kind as keyof typeof USES;
  const { name = value.name } = context;
  const member: Member = {
    key: name,
    label: String(name),
    kind: kind === "method" ? "method" : "accessor",
    own: false,
    readable: kind === "getter",
    writable: kind === "setter",
    enumerable: false,
    configurable: true,
    signature: { name: value.name, length: value.length },
  };
  const outermost = throughLayers(
    ({ wrapper, args }) => Reflect.apply(value, wrapper, args as never[]),
    member,
    USES[kind],
    layers,
  );
  // It is called in all the ways in which the one it stands for is.
  return methodThrough(outermost, member, value) as unknown as Value;
}
