import type { Layer } from "../forward/call.ts";
import { methodThrough, throughLayers } from "../forward/closed/wrapper-factory.ts";
import { flatten } from "../forward/layer-stack.ts";
import type { Member } from "../surface/member.ts";
import type { AnyFunction } from "./adapter/adapter.ts";
import { decorateClass } from "./decorate-class.ts";

/** The context object of a standard decorator. */
export interface DecoratorContext {
  readonly kind: "class" | "method" | "getter" | "setter" | "field" | "accessor";
  readonly name?: string | symbol | undefined;
  readonly static?: boolean;
}

type Decoratable = AnyFunction | (abstract new (...args: never[]) => object);

/**
 * Applies layers as a standard (TC39) decorator: to a class, or to single methods, getters and setters. The
 * first layer is the outermost; see {@link decorate}.
 *
 * @throws {TypeError} on a field or `accessor`, to which this kind of decorator cannot apply layers
 * @example
 * import { decorated, logging, timing } from "sleeve";
 *
 * \@decorated(logging())
 * class Winch {
 *   \@decorated(timing({ onSample: (sample) => console.log(sample.milliseconds) }))
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
        return decorateClass(value as abstract new (...args: never[]) => object, ...layers) as Value;
      case "method":
      case "getter":
      case "setter":
        // For these kinds the value is a function, not a class.
        return layered(value as Extract<Value, AnyFunction>, context, flatten(layers));
      default:
        throw new TypeError(
          `decorated(…) cannot be applied to the ${context.kind} ${String(context.name)}. Apply it to a method, a getter, a setter or the class.`,
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
  // The wrapper can be called in every way the original can.
  return methodThrough(outermost, member, value) as unknown as Value;
}
