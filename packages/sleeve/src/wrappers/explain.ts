import type { ForwardingMode, Layer, Use } from "../forward/call.ts";
import { throughLayers } from "../forward/closed/wrapper-factory.ts";
import { requireObject } from "../forward/subject.ts";
import { isCreatedLate, omittedLayersOf, recordOf } from "../forward/wrapper-record.ts";
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
  /** Layers that do not see every call, because another one may answer first. */
  readonly hidden: readonly HiddenLayer[];
}

export interface ExplainedMember {
  readonly member: string;
  readonly kind: Member["kind"];
  readonly layers: Readonly<Partial<Record<Use, readonly string[]>>>;
}

export interface HiddenLayer {
  /** Name of the layer that misses calls. */
  readonly layer: string;
  /** Name of the layer outside it that may answer them. */
  readonly behind: string;
  readonly members: readonly string[];
  /** Recommended order of the whole stack, outermost first. */
  readonly better: readonly string[];
}

/**
 * Describes a wrapper: the layers on each member, those that were merged or cancelled, and those that miss
 * calls because of their order.
 *
 * @example
 * import { cached, decorate, explain, logging } from "sleeve";
 *
 * const sums = decorate({ heightAt: (hour: number) => hour * 2 }, cached(), logging());
 * explain(sums).hidden; // [{ layer: "logging", behind: "cached", members: ["heightAt"], better: ["logging", "cached"] }]
 */
export function explain(wrapper: object): Explanation {
  const wrapped = recordOf(requireObject(wrapper, "explain", "subject"));
  const subject = wrapped?.subject ?? wrapper;
  const layers = wrapped?.layers ?? [];
  const known = recordOf(subject);
  // Explaining a lazily created subject must not create it.
  const isHidden = known !== undefined && isCreatedLate(known, subject);
  const members = isHidden ? [] : membersOf(subject).filter((member) => isListed(member, layers));
  const leftOut = omittedLayersOf(wrapper);
  return {
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
    hidden: hiddenLayers(layers, members),
  };
}

function membersOf(subject: object): readonly Member[] {
  if (typeof subject !== "function") return reflect(subject);
  const constructed = isClass(subject);
  const itself = memberOfFunction(subject as never, constructed ? "class" : "function");
  if (!constructed) return [itself];
  const apart = new Set<PropertyKey>(["name", "length", "prototype"]);
  const made = inheritedMembers((subject as unknown as { prototype: object }).prototype, new Set());
  return [itself, ...reflect(subject).filter(({ key, own }) => own && !apart.has(key)), ...made];
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

function hiddenLayers(layers: readonly Layer<never>[], members: readonly Member[]): readonly HiddenLayer[] {
  const better = betterOrder(layers).map(nameOf);
  return layers.flatMap((outer, place) =>
    !outer.mayShortCircuit
      ? []
      : layers.slice(place + 1).flatMap((layer): HiddenLayer[] => {
          const missed = members.filter((member) =>
            usesOf(member).some((use) => isOn(outer, member, use) && isOn(layer, member, use)),
          );
          if (!layer.observesAll || missed.length === 0) return [];
          const labels = missed.map(({ label }) => label);
          return [{ layer: layer.name, behind: outer.name, members: labels, better }];
        }),
  );
}

/** Moves layers that must see every call outside the first one that may answer; otherwise keeps the order. */
function betterOrder(layers: readonly Layer<never>[]): readonly Layer<never>[] {
  const first = layers.findIndex((layer) => layer.mayShortCircuit);
  const before = layers.slice(0, first);
  const after = layers.slice(first);
  return [
    ...before,
    ...after.filter((layer) => layer.observesAll),
    ...after.filter((layer) => !layer.observesAll),
  ];
}

function nameOf({ name }: Layer<never>): string {
  return name;
}
