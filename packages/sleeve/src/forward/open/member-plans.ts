import {
  addTo,
  every,
  getOwnPropertyDescriptor,
  getPrototypeOf,
  hasOwn,
  hasProperty,
  PrivateMap,
} from "../../shared/intrinsics.ts";
import type { Use } from "../../shared/use.ts";
import { type Callable, type Member, memberOf } from "../../surface/member.ts";
import type { FoundProperty } from "../../surface/prototype-chain.ts";
import type { Layer, Next } from "../call.ts";
import { throughLayers } from "../closed/wrapper-factory.ts";

/** What an open wrapper found of the members of an object. It is checked at each use, because members may change. */
export class MemberPlans {
  readonly #real: object;
  readonly #layers: readonly Layer<never>[];
  readonly #members = new PrivateMap<string | symbol, KnownMember>();
  /** For each key, what layers do with each use of a member of each kind. */
  readonly #planned = new PrivateMap<string | symbol, (Next | undefined)[]>();

  readonly #isUnwatched: boolean;

  constructor(real: object, layers: readonly Layer<never>[]) {
    this.#real = real;
    this.#layers = layers;
    this.#isUnwatched = every(layers, ({ ignoresReads }) => ignoresReads === true);
  }

  /**
   * Returns what is known of a member that is read as it is, whatever it has become. A member that every object has is
   * none: once the subject's own is deleted, the inherited one acts on the wrapper.
   */
  unwatched(key: string | symbol): KnownMember | undefined {
    if (!this.#isUnwatched) return undefined;
    const cached = this.#members.get(key);
    return cached?.isOfEveryObject ? undefined : cached;
  }

  /** Returns what is known of a property, unless it has changed. */
  unchanged(key: string | symbol): KnownMember | undefined {
    const cached = this.#members.get(key);
    if (!cached) return undefined;
    let holder: object | null = this.#real;
    while (holder !== cached.holder) {
      if (holder === null || hasOwn(holder, key)) return undefined;
      holder = getPrototypeOf(holder);
    }
    const descriptor = getOwnPropertyDescriptor(holder, key);
    return descriptor && isSameProperty(cached.descriptor, descriptor) ? cached : undefined;
  }

  /** Returns the member that a property is. It is kept for the next read, because most properties stay as they are. */
  memberAt(key: string | symbol, { holder, descriptor }: FoundProperty): Member {
    const member = memberOf(key, descriptor, holder === this.#real);
    if (this.#members.size < MAX_PLANNED_MEMBERS)
      this.#members.set(key, {
        holder,
        descriptor,
        member,
        isReadBare: this.#isReadBare(member),
        isOfEveryObject: key === Symbol.toStringTag || hasProperty(Object.prototype, key),
      });
    return member;
  }

  /** Whether reads of a member pass no layer. An inherited method is read on each call, which does not count as a use. */
  #isReadBare(member: Member): boolean {
    return this.#isBare(member, "list") && (isInheritedMethod(member) || this.#isBare(member, "read"));
  }

  #isBare(member: Member, use: Use): boolean {
    return throughLayers(bareUse, member, use, this.#layers) === bareUse;
  }

  /** Decides once for each member and use which layers apply. Keys may be many, so the cache is bounded. */
  through(bare: Next, member: Member, use: Use): Next {
    const place = (USES[use] * 8 + KINDS[member.kind]) * 2 + (member.own ? 1 : 0);
    const cached = this.#planned.get(member.key);
    const match = cached?.[place];
    if (match) return match;
    const outermost = throughLayers(bare, member, use, this.#layers);
    if (cached) cached[place] = outermost;
    else if (this.#planned.size < MAX_PLANNED_MEMBERS) {
      const planned: (Next | undefined)[] = filledWith(undefined, PLACES);
      planned[place] = outermost;
      this.#planned.set(member.key, planned);
    }
    return outermost;
  }
}

const MAX_PLANNED_MEMBERS = 256;
const USES = { call: 0, read: 1, write: 2, construct: 3, list: 4 } as const;
const KINDS = { method: 0, property: 1, accessor: 2, function: 3, class: 4 } as const;
const PLACES = 5 * 8 * 2;

/** Creates a list in which each index exists, so that setting one calls no setter that a client added to arrays. */
function filledWith<Item>(item: Item, length: number): Item[] {
  const list: Item[] = [];
  for (let index = 0; index < length; index++) addTo(list, item);
  return list;
}

/** A property and the member that it is. */
export interface KnownMember {
  readonly holder: object;
  readonly descriptor: PropertyDescriptor;
  readonly member: Member;
  /** Whether reads of the member pass no layer. */
  readonly isReadBare: boolean;
  readonly isOfEveryObject: boolean;
  /** The function that represents the method, once it has been read. */
  shown?: ShownFunction | undefined;
}

/** A function of the other side and its representation on this one. */
export interface ShownFunction {
  readonly fn: Callable;
  readonly shown: Callable;
}

export function isInheritedMethod({ kind, own }: Member): boolean {
  return kind === "method" && !own;
}

const bareUse: Next = () => undefined;

function isSameProperty(before: PropertyDescriptor, current: PropertyDescriptor): boolean {
  return (
    (typeof before.value === "function"
      ? before.value === current.value
      : typeof current.value !== "function") &&
    before.get === current.get &&
    before.set === current.set &&
    before.writable === current.writable &&
    before.enumerable === current.enumerable &&
    before.configurable === current.configurable
  );
}
