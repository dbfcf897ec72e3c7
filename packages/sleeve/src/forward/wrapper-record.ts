import { addTo, every, getPrototypeOf, PrivateWeakMap, PrivateWeakSet } from "../shared/intrinsics.ts";
import { type FoundFunction, findOnChain, ownFunction } from "../surface/prototype-chain.ts";
import { isRoot } from "../surface/reflect.ts";
import type { ForwardingMode, Layer, OpenEngine } from "./call.ts";
import { Forwarding } from "./closed/templates.ts";
import { wrapperLayers } from "./closed/wrapper-class.ts";
import type { NormalizedStack } from "./layer-stack.ts";

/** The library's record of a wrapper. It is never exposed, because it holds the subject. */
export interface WrapperRecord {
  readonly subject: object;
  readonly layers: readonly Layer<never>[];
  readonly forwarding: ForwardingMode;
  /** The reason for the forwarding mode. */
  readonly why: string;
  /** Creates wrappers of a subject whose members are not known. */
  readonly engine?: OpenEngine | undefined;
  /** Called on each access, by any wrapper. Throws if access has been revoked. */
  readonly gate?: (() => void) | undefined;
}

/** Records of wrappers that cannot be found by class: functions, classes, and open wrappers. */
const record = /* @__PURE__ */ new PrivateWeakMap<object, WrapperRecord>();

export function remember(wrapper: object, wrapped: WrapperRecord): void {
  record.set(wrapper, wrapped);
}

/** Returns the record of a wrapper, or `undefined` for an object that layers cannot be re-applied to. */
export function recordOf(wrapper: object): WrapperRecord | undefined {
  const existing = record.get(wrapper);
  if (existing || typeof wrapper === "function") return existing;
  const prototype: object | null = getPrototypeOf(wrapper);
  const layers = prototype ? wrapperLayers.get(prototype) : undefined;
  const subject = layers && Forwarding.subjectOf(wrapper);
  if (!layers || !subject) return undefined;
  const why = "the members of its subject were known when it was created";
  return { subject, layers, forwarding: "closed", why };
}

/** Whether an object represents a subject that is created on first use, with members unknown until then. */
export function isCreatedLate(record: WrapperRecord, port: object): boolean {
  return record.subject === port && record.forwarding === "open";
}

const omittedLayers = /* @__PURE__ */ new PrivateWeakMap<object, NormalizedStack>();

/** Records the layers that were dropped when a wrapper was created. */
export function recordOmittedLayers(wrapper: object, normalized: NormalizedStack): void {
  if (normalized.merged.length + normalized.cancelled.length > 0) omittedLayers.set(wrapper, normalized);
}

export function omittedLayersOf(wrapper: object): NormalizedStack | undefined {
  return omittedLayers.get(wrapper);
}

const subjects = /* @__PURE__ */ new PrivateWeakMap<object, WeakSet<object>>();

/** Records that a subject is reached through a port: wrappers of the port are wrappers of the subject. */
export function registerAlias(subject: object, port: object): void {
  const cached = subjects.get(port) ?? new PrivateWeakSet<object>();
  subjects.set(port, cached.add(subject));
  // If the subject is itself a wrapper, code behind it may expose what it wraps.
  const inner = recordOf(subject)?.subject;
  if (inner) cached.add(inner);
  const ofClasses = classPrototypes.get(port) ?? new PrivateWeakSet<object>();
  const prototype = getPrototypeOf(inner ?? subject);
  if (prototype) classPrototypes.set(port, ofClasses.add(prototype));
  const above = prototypes.get(port) ?? [];
  prototypes.set(port, above);
  findOnChain(getPrototypeOf(inner ?? subject), (holder) => {
    if (!isGeneric(holder) && every(above, (candidate) => candidate !== holder)) addTo(above, holder);
    return undefined;
  });
}

/** The prototypes of the classes whose instances the subjects behind each port are. */
const classPrototypes = /* @__PURE__ */ new PrivateWeakMap<object, WeakSet<object>>();

/** Whether a prototype is that of the class of a subject that is, or has been, reached through a port. */
export function isClassPrototypeOfAlias(prototype: object, port: object): boolean {
  return classPrototypes.get(port)?.has(prototype) ?? false;
}

/** The prototypes of the subjects behind each port, but for those of every object. */
const prototypes = /* @__PURE__ */ new PrivateWeakMap<object, object[]>();

function isGeneric(prototype: object): boolean {
  return isRoot(prototype) || typeof prototype === "function";
}

/** Whether a subject that is, or has been, reached through a port inherits from an object. */
export function isPrototypeOfAlias(object: object, port: object): boolean {
  return !every(prototypes.get(port) ?? [], (prototype) => prototype !== object);
}

/** Returns the inherited member of a subject behind a port that a function implements. */
export function functionOfAlias(fn: object, port: object): FoundFunction | undefined {
  const holders = prototypes.get(port) ?? [];
  for (let index = 0; index < holders.length; index++) {
    const match = ownFunction(holders[index] as object, fn);
    if (match) return match;
  }
  return undefined;
}

/** Records that an object derived from a port reaches the same subjects, and the port itself. */
export function shareAliases(port: object, created: object): void {
  const cached = subjects.get(port) ?? new PrivateWeakSet<object>();
  subjects.set(port, cached.add(port));
  subjects.set(created, cached);
}

/** Whether a subject is, or has been, reached through a port. It may be reached through others too. */
export function isAliasOf(subject: object, port: object): boolean {
  return subjects.get(port)?.has(subject) ?? false;
}
