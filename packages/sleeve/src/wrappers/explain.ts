import type { ForwardingMode, Layer, OrderConflict } from "../forward/call.ts";
import { throughLayers } from "../forward/closed/wrapper-factory.ts";
import { requireObject } from "../forward/subject.ts";
import { isCreatedLate, omittedLayersOf, recordOf } from "../forward/wrapper-record.ts";
import { recommendedOrder } from "../layers/order.ts";
import type { Use } from "../shared/use.ts";
import { isClass, type Member, memberOfFunction } from "../surface/member.ts";
import { inheritedMembers, reflect } from "../surface/reflect.ts";

/** A description of a wrapper. It contains names only, so it gives no access to the subject. */
export interface Explanation {
  /** How members reach the subject. `none` if the object is not a wrapper with layers. */
  readonly forwarding: ForwardingMode | "none";
  /** The reason for the forwarding mode. */
  readonly why: string;
  /** The layers on each use of each member, outermost first. */
  readonly members: readonly ExplainedMember[];
  /** Layers dropped because an equal idempotent layer is adjacent. */
  readonly merged: readonly string[];
  /** Layers dropped in pairs because they undo each other. */
  readonly cancelled: readonly string[];
  /** Pairs of layers whose order hides calls from the inner one, or repeats or limits calls in a way that few want. */
  readonly conflicts: readonly ExplainedConflict[];
  /** Returns the explanation as text, with a line for each member. Consoles of Node.js print it too. */
  toString(): string;
}

export interface ExplainedMember {
  readonly member: string;
  readonly kind: Member["kind"];
  readonly layers: Readonly<Partial<Record<Use, readonly string[]>>>;
}

/** Two layers in an order that has an effect that few want. */
export interface ExplainedConflict extends OrderConflict {
  readonly outer: string;
  readonly inner: string;
  /** The members that both layers are on. */
  readonly members: readonly string[];
  /** Recommended order of the whole stack, outermost first. */
  readonly better: readonly string[];
}

/**
 * Describes a wrapper: the layers on each member, those that were merged or cancelled, and those whose order hides, repeats
 * or limits calls.
 *
 * @example
 * import { cached, decorate, explain, logging } from "sleeve";
 *
 * const sums = decorate({ heightAt: (hour: number) => hour * 2 }, cached(), logging());
 * explain(sums).conflicts[0]?.text; // "logging" misses the calls that "cached" answers
 * console.log(String(explain(sums)));
 */
export function explain(wrapper: object): Explanation {
  const wrapped = recordOf(requireObject(wrapper, "explain", "subject"));
  const subject = wrapped?.subject ?? wrapper;
  const layers = wrapped?.layers ?? [];
  const record = recordOf(subject);
  // Explaining a lazily created subject must not create it.
  const isHidden = record !== undefined && isCreatedLate(record, subject);
  const members = isHidden ? [] : membersOf(subject).filter((member) => isListed(member, layers));
  const leftOut = omittedLayersOf(wrapper);
  const explanation = {
    forwarding: wrapped?.forwarding ?? "none",
    why: wrapped?.why ?? "it is not a wrapper with layers",
    members: members.map((member) => ({
      member: member.label,
      kind: member.kind,
      layers: Object.fromEntries(
        usesOf(member).map((use) => [use, layers.filter((layer) => isOn(layer, member, use)).map(nameOf)]),
      ),
    })),
    merged: leftOut?.merged.map(nameOf) ?? [],
    cancelled: leftOut?.cancelled.map(nameOf) ?? [],
    conflicts: explainedConflicts(layers, members),
  } satisfies Omit<Explanation, "toString">;
  const asText = { value: () => textOf(explanation) };
  return Object.defineProperties(explanation, {
    toString: asText,
    [Symbol.for("nodejs.util.inspect.custom")]: asText,
  });
}

function textOf(explanation: Omit<Explanation, "toString">): string {
  const { forwarding, why, members, merged, cancelled, conflicts } = explanation;
  const width = Math.max(0, ...members.map(({ member }) => member.length));
  return [
    `Forwarding: ${forwarding}, because ${why}.`,
    ...members.map(({ member, layers }) => {
      const uses = Object.entries(layers).map(([use, names]) => `${use}: ${names.join(" > ") || "no layer"}`);
      return `  ${member.padEnd(width)}  ${uses.join("; ")}`;
    }),
    ...(merged.length > 0 ? [`Merged: ${merged.join(", ")}.`] : []),
    ...(cancelled.length > 0 ? [`Cancelled: ${cancelled.join(", ")}.`] : []),
    ...conflicts.map(
      ({ text, members, better }) =>
        `Order: ${text}, on ${members.join(", ")}. Better: ${better.join(" > ")}.`,
    ),
  ].join("\n");
}

function membersOf(subject: object): readonly Member[] {
  if (typeof subject !== "function") return reflect(subject);
  const constructed = isClass(subject);
  const itself = memberOfFunction(subject as never, constructed ? "class" : "function");
  if (!constructed) return [itself];
  const apart = new Set<PropertyKey>(["name", "length", "prototype"]);
  const created = inheritedMembers((subject as unknown as { prototype: object }).prototype, new Set());
  return [itself, ...reflect(subject).filter(({ key, own }) => own && !apart.has(key)), ...created];
}

function usesOf({ kind, own, readable, writable }: Member): readonly Use[] {
  switch (kind) {
    case "method":
      return own ? ["call", "read", "write"] : ["call"];
    case "function":
      return ["call", "construct"];
    case "class":
      return ["construct"];
    default:
      return [...(readable ? (["read"] as const) : []), ...(writable ? (["write"] as const) : [])];
  }
}

const END = () => undefined;

function isOn(layer: Layer<never>, member: Member, use: Use): boolean {
  return layer.around(END, member, use) !== END;
}

/** A member that clients may not list is not described either. */
function isListed(member: Member, layers: readonly Layer<never>[]): boolean {
  if (layers.every((layer) => layer.forwarding === undefined)) return true;
  return (
    throughLayers(
      () => true,
      member,
      "list",
      layers,
    )({ member, args: [], wrapper: {}, context: undefined }) !== false
  );
}

function explainedConflicts(
  layers: readonly Layer<never>[],
  members: readonly Member[],
): readonly ExplainedConflict[] {
  const better = recommendedOrder(layers).map(nameOf);
  return layers.flatMap((outer, place) =>
    layers.slice(place + 1).flatMap((inner): ExplainedConflict[] => {
      const conflict = outer.conflictWith?.(inner);
      const shared = members.filter((member) =>
        usesOf(member).some((use) => isOn(outer, member, use) && isOn(inner, member, use)),
      );
      if (!conflict || shared.length === 0) return [];
      return [
        {
          outer: outer.name,
          inner: inner.name,
          ...conflict,
          members: shared.map(({ label }) => label),
          better,
        },
      ];
    }),
  );
}

function nameOf({ name }: Layer<never>): string {
  return name;
}
