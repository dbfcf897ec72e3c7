import type { Node } from "../../../compiler/typescript.ts";
import { identityOf, type ParameterShape, resultIdentity, someShape } from "../shapes/shape.ts";
import type { ReadCall } from "./read-call.ts";

/** More overloads than these are written as they are declared. */
export const MOST_OVERLOADS = 4;

export function groupedBy<Item>(
  items: readonly Item[],
  keyOf: (item: Item) => string,
): readonly (readonly Item[])[] {
  const groups = new Map<string, Item[]>();
  for (const item of items) {
    const group = groups.get(keyOf(item));
    if (group) group.push(item);
    else groups.set(keyOf(item), [item]);
  }
  return [...groups.values()];
}

/** Joins calls with equal results. Calls whose result is not used join the first group. */
export function groupsOf(calls: readonly ReadCall[]): readonly (readonly ReadCall[])[] {
  const used = calls.filter(({ result }) => result !== undefined);
  const discarded = calls.filter(({ result }) => result === undefined);
  const [firstGroup = [], ...others] = groupedBy(used, ({ result }) =>
    result ? resultIdentity(result) : "",
  );
  const groups = [[...firstGroup, ...discarded], ...others].filter((group) => group.length > 0);
  return groups.flatMap(splitByLiteral);
}

/**
 * Splits calls whose callbacks take different parameters by the literal that decides between them, such as the
 * name of an event.
 */
function splitByLiteral(calls: readonly ReadCall[]): readonly (readonly ReadCall[])[] {
  const most = Math.max(...calls.map(({ shapes }) => shapes.length));
  const columns = Array.from({ length: most }, (_, index) =>
    calls.flatMap(({ shapes }) => shapes[index] ?? []),
  );
  const callbackTexts = columns.map((column) =>
    column.flatMap((shape) =>
      shape.kind === "function"
        ? shape.signatures.map(({ parameters }) => parametersIdentity(parameters))
        : [],
    ),
  );
  if (callbackTexts.every((texts) => new Set(texts).size < 2)) return [calls];
  const literalAt = (call: ReadCall, index: number) => {
    const argument = call.args[index] as (Node & { text?: string }) | undefined;
    return argument && isLiteral(argument) ? argument.text : undefined;
  };
  const decides = columns.findIndex((_, index) => {
    const literals = calls.map((call) => literalAt(call, index));
    return literals.every((literal) => literal !== undefined) && new Set(literals).size > 1;
  });
  if (decides < 0) return splitByCallback(calls);
  return groupedBy(calls, (call) => literalAt(call, decides) ?? "").map((group) =>
    group.map((call) => ({
      ...call,
      shapes: call.shapes.map((shape, index) =>
        index === decides ? { kind: "text", text: JSON.stringify(literalAt(call, index)) } : shape,
      ),
    })),
  );
}

/**
 * Splits calls whose callbacks take different outside types; those that the compiler infers come first, because a
 * callback that declares its parameters takes only these.
 */
function splitByCallback(calls: readonly ReadCall[]): readonly (readonly ReadCall[])[] {
  const callbackOf = ({ shapes }: ReadCall) => shapes.find((shape) => shape.kind === "function");
  const groups = groupedBy(calls, (call) => {
    const callback = callbackOf(call);
    return callback ? callback.signatures.map(({ parameters }) => parametersIdentity(parameters)).join() : "";
  });
  const hasReferences = calls.some((call) => {
    const callback = callbackOf(call);
    return callback !== undefined && someShape(callback, ({ kind }) => kind === "reference");
  });
  if (!hasReferences || groups.length > MOST_OVERLOADS) return [calls];
  const isAnnotated = ([call]: readonly ReadCall[]) => (call && callbackOf(call)?.isAnnotated) === true;
  return [...groups.filter((group) => !isAnnotated(group)), ...groups.filter(isAnnotated)];
}

function parametersIdentity(parameters: readonly ParameterShape[]): string {
  return parameters.map(({ shape }) => identityOf(shape)).join();
}

function isLiteral(node: Node & { text?: string }): boolean {
  return node.text !== undefined && /^["'`]/.test(node.getText());
}
