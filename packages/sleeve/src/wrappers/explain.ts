import type { Forwarded, Layer, Use } from "../forward/call.ts";
import { throughLayers } from "../forward/plan.ts";
import { requireObject } from "../forward/subject.ts";
import { isMadeLate, leftOutOf, wrappedOf } from "../forward/wrapped.ts";
import { isClass, type Member, memberOfFunction } from "../surface/member.ts";
import { inheritedMembers, reflect } from "../surface/reflect.ts";

/** What there is to know of a wrapper. It names things and holds none of them, so it shows no way to the subject. */
export interface Explanation {
  /** How members reach the subject; `none` where the object is no wrapper that layers were put around. */
  readonly forwarding: Forwarded | "none";
  /** Why it is forwarded to in this way. */
  readonly why: string;
  /** Each member with the layers that are on its path, the outermost first, for each way of using it. */
  readonly members: readonly ExplainedMember[];
  /** Layers that were left out since the same one stands beside them, and twice is the same as once. */
  readonly merged: readonly string[];
  /** Layers that were left out in pairs since each undoes the other. */
  readonly cancelled: readonly string[];
  /** Layers that do not see every call, as another one may answer before them. */
  readonly hidden: readonly HiddenLayer[];
}

export interface ExplainedMember {
  readonly member: string;
  readonly kind: Member["kind"];
  readonly layers: Readonly<Partial<Record<Use, readonly string[]>>>;
}

export interface HiddenLayer {
  /** The layer that misses calls. */
  readonly layer: string;
  /** The one outside it that may answer them. */
  readonly behind: string;
  readonly members: readonly string[];
  /** The whole stack in the better order, the outermost first. */
  readonly better: readonly string[];
}

/**
 * Tells of a wrapper which layers are on the path of each member, which were merged or cancelled, and which hide
 * others from calls.
 *
 * @example
 * import { cached, decorate, explain, logging } from "sleeve";
 *
 * const sums = decorate({ heightAt: (hour: number) => hour * 2 }, cached(), logging());
 * explain(sums).hidden; // [{ layer: "logging", behind: "cached", members: ["heightAt"], better: ["logging", "cached"] }]
 */
export function explain(wrapper: object): Explanation {
  const wrapped = wrappedOf(requireObject(wrapper, "explain", "subject"));
  const subject = wrapped?.subject ?? wrapper;
  const layers = wrapped?.layers ?? [];
  const known = wrappedOf(subject);
  // To explain it must not be the first use of a subject that is made at that.
  const isHidden = known !== undefined && isMadeLate(known, subject);
  const members = isHidden ? [] : membersOf(subject).filter((each) => isListed(each, layers));
  const leftOut = leftOutOf(wrapper);
  return {
    forwarding: wrapped?.forwarding ?? "none",
    why: wrapped?.why ?? "it is no wrapper that layers were put around",
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

/** A member that clients are not to see listed is not told of here either. */
function isListed(member: Member, layers: readonly Layer<never>[]): boolean {
  if (layers.every((layer) => layer.forwarding === undefined)) return true;
  return throughLayers(() => true, member, "list", layers)({ member, args: [], wrapper: {} }) !== false;
}

function hiddenLayers(layers: readonly Layer<never>[], members: readonly Member[]): readonly HiddenLayer[] {
  const better = betterOrder(layers).map(nameOf);
  return layers.flatMap((outer, place) =>
    !outer.mayAnswer
      ? []
      : layers.slice(place + 1).flatMap((layer): HiddenLayer[] => {
          const missed = members.filter((member) =>
            usesOf(member).some((use) => isOn(outer, member, use) && isOn(layer, member, use)),
          );
          if (!layer.meetsEveryCall || missed.length === 0) return [];
          const labels = missed.map(({ label }) => label);
          return [{ layer: layer.name, behind: outer.name, members: labels, better }];
        }),
  );
}

/** Those that want every call go out to before the first that may answer one; otherwise the order stays. */
function betterOrder(layers: readonly Layer<never>[]): readonly Layer<never>[] {
  const first = layers.findIndex((layer) => layer.mayAnswer);
  const before = layers.slice(0, first);
  const after = layers.slice(first);
  return [
    ...before,
    ...after.filter((layer) => layer.meetsEveryCall),
    ...after.filter((layer) => !layer.meetsEveryCall),
  ];
}

function nameOf({ name }: Layer<never>): string {
  return name;
}
