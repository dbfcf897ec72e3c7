/** What a project's code shows about one value of a module without types. */
export interface UseShape {
  /** The calls of the value. */
  readonly calls: UsedCall[];
  /** The `new` expressions with the value. */
  readonly constructs: UsedCall[];
  readonly members: Map<string, UseShape>;
  /** Types, as source, of the places that take the value. */
  readonly expected: Set<string>;
  /** Result of `await` on the value. */
  awaited?: UseShape;
  /** One of the value's elements, if it is iterated. */
  element?: UseShape;
  /** Whether the value may be `undefined` or `null`: `value?.name`. */
  isNullable: boolean;
  /** Whether calls return the object that the member belongs to. */
  returnsOwner: boolean;
}

/** One call, or one `new` expression. */
export interface UsedCall {
  readonly args: readonly UsedArgument[];
  readonly result: UseShape;
}

export interface UsedArgument {
  /** The name that the caller has for the value, if it has one. */
  readonly name: string | undefined;
  readonly shape: ArgumentShape;
}

/** What is known of one argument. */
export type ArgumentShape =
  | { readonly kind: "type"; readonly text: string }
  | { readonly kind: "literal"; readonly properties: ReadonlyMap<string, ArgumentShape> }
  | {
      readonly kind: "callback";
      readonly parameters: readonly { readonly name: string; readonly shape: UseShape }[];
      readonly result: string;
    };

export function emptyShape(): UseShape {
  return {
    calls: [],
    constructs: [],
    members: new Map(),
    expected: new Set(),
    isNullable: false,
    returnsOwner: false,
  };
}

/** Returns the shape of a member, which is added if it is new. */
export function memberOf(shape: UseShape, name: string): UseShape {
  const memberShape = shape.members.get(name);
  if (memberShape) return memberShape;
  const newShape = emptyShape();
  shape.members.set(name, newShape);
  return newShape;
}

/** Returns the shape of the elements of an iterated value. */
export function elementOf(shape: UseShape): UseShape {
  shape.element ??= emptyShape();
  return shape.element;
}

/** Returns the shape of what a promise resolves to. */
export function awaitedOf(shape: UseShape): UseShape {
  shape.awaited ??= emptyShape();
  return shape.awaited;
}

/** Whether nothing is known of a value. */
export function isBlank(shape: UseShape): boolean {
  return (
    shape.calls.length === 0 &&
    shape.constructs.length === 0 &&
    shape.members.size === 0 &&
    shape.expected.size === 0 &&
    shape.awaited === undefined &&
    shape.element === undefined
  );
}

/** Adds to one shape all that another one shows. */
export function mergeShape(into: UseShape, from: UseShape): void {
  if (into === from) return;
  into.calls.push(...from.calls);
  into.constructs.push(...from.constructs);
  for (const [name, member] of from.members) mergeShape(memberOf(into, name), member);
  for (const text of from.expected) into.expected.add(text);
  if (from.awaited) mergeShape(awaitedOf(into), from.awaited);
  if (from.element) mergeShape(elementOf(into), from.element);
  into.isNullable ||= from.isNullable;
  into.returnsOwner ||= from.returnsOwner;
}

/** Gives all calls of a value one result, and finds methods that return the object they belong to. */
export function normalize(shape: UseShape): void {
  mergeResults(shape, new Set());
  findFluent(shape, new Set());
  mergeResults(shape, new Set());
}

function mergeResults(shape: UseShape, done: Set<UseShape>): void {
  if (done.has(shape)) return;
  done.add(shape);
  for (const calls of [shape.calls, shape.constructs]) {
    const [firstCall, ...others] = calls;
    if (!firstCall) continue;
    for (const { result } of others) mergeShape(firstCall.result, result);
    const merged = calls.map(({ args }) => ({ args, result: firstCall.result }));
    calls.splice(0, calls.length, ...merged);
  }
  for (const part of partsOf(shape)) mergeResults(part, done);
}

/**
 * Finds methods that return the object they belong to, so that `queue.push(1).push(2)` needs no nested types.
 * Such a result is used only with members that the object has too.
 */
function findFluent(shape: UseShape, done: Set<UseShape>): void {
  if (done.has(shape)) return;
  done.add(shape);
  for (let isChanged = true; isChanged; ) {
    isChanged = false;
    for (const [name, member] of shape.members) {
      const [call] = member.calls;
      if (member.returnsOwner || !call || !isLike(call.result, shape, name)) continue;
      member.returnsOwner = true;
      isChanged = true;
      mergeShape(shape, call.result);
      mergeResults(shape, new Set());
    }
  }
  for (const part of partsOf(shape)) findFluent(part, done);
}

/** Whether the result of a method is used as the object is: with the same method again, or with its members only. */
function isLike(result: UseShape, owner: UseShape, method: string): boolean {
  const { members, expected, calls, constructs, awaited, element } = result;
  const isObject = members.size > 0 && expected.size === 0 && calls.length === 0 && constructs.length === 0;
  if (!isObject || awaited || element) return false;
  return members.has(method) || [...members.keys()].every((name) => owner.members.has(name));
}

/** Whether one place takes a value as a type that another place rules out. */
export function isContradictory(shape: UseShape, done = new Set<UseShape>()): boolean {
  if (done.has(shape)) return false;
  done.add(shape);
  return shape.expected.size > 1 || partsOf(shape).some((part) => isContradictory(part, done));
}

function partsOf(shape: UseShape): readonly UseShape[] {
  const ofCall = ({ args, result }: UsedCall): readonly UseShape[] => [
    result,
    ...args.flatMap((argument) => shapesIn(argument.shape)),
  ];
  return [
    ...shape.members.values(),
    ...[...shape.calls, ...shape.constructs].flatMap(ofCall),
    ...(shape.awaited ? [shape.awaited] : []),
    ...(shape.element ? [shape.element] : []),
  ];
}

function shapesIn(argument: ArgumentShape): readonly UseShape[] {
  if (argument.kind === "callback") return argument.parameters.map(({ shape }) => shape);
  return argument.kind === "literal" ? [...argument.properties.values()].flatMap(shapesIn) : [];
}
