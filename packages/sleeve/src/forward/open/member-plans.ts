import { addTo, PrivateMap } from "../../shared/intrinsics.ts";
import { type Member, memberOf } from "../../surface/member.ts";
import type { FoundProperty } from "../../surface/prototype-chain.ts";
import type { Layer, Next, Use } from "../call.ts";
import { throughLayers } from "../closed/wrapper-factory.ts";

/** What an open wrapper found of the members of an object. It is checked at each use, because members may change. */
export class MemberPlans {
  readonly #real: object;
  readonly #layers: readonly Layer<never>[];
  readonly #members = new PrivateMap<string | symbol, KnownMember>();
  /** For each key, what layers do with each use of a member of each kind. */
  readonly #planned = new PrivateMap<string | symbol, (Next | undefined)[]>();

  constructor(real: object, layers: readonly Layer<never>[]) {
    this.#real = real;
    this.#layers = layers;
  }

  /** Returns the member that a property was before, unless it has changed. */
  kept(key: string | symbol, { holder, descriptor }: FoundProperty): Member | undefined {
    const kept = this.#members.get(key);
    return kept && kept.holder === holder && isSameProperty(kept.descriptor, descriptor)
      ? kept.member
      : undefined;
  }

  /** Returns the member that a property is. It is kept for the next read, because most properties stay as they are. */
  memberAt(key: string | symbol, found: FoundProperty): Member {
    const { holder, descriptor } = found;
    const kept = this.kept(key, found);
    if (kept) return kept;
    const member = memberOf(key, descriptor, holder === this.#real);
    if (this.#members.size < MAX_PLANNED_MEMBERS) this.#members.set(key, { holder, descriptor, member });
    return member;
  }

  /** Decides once for each member and use which layers apply. Keys may be many, so the cache is bounded. */
  through(bare: Next, member: Member, use: Use): Next {
    const place = (USES[use] * 8 + KINDS[member.kind]) * 2 + (member.own ? 1 : 0);
    const kept = this.#planned.get(member.key);
    const found = kept?.[place];
    if (found) return found;
    const outermost = throughLayers(bare, member, use, this.#layers);
    if (kept) kept[place] = outermost;
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
interface KnownMember {
  readonly holder: object;
  readonly descriptor: PropertyDescriptor;
  readonly member: Member;
}

function isSameProperty(one: PropertyDescriptor, other: PropertyDescriptor): boolean {
  return (
    (typeof one.value === "function" ? one.value === other.value : typeof other.value !== "function") &&
    one.get === other.get &&
    one.set === other.set &&
    one.writable === other.writable &&
    one.enumerable === other.enumerable &&
    one.configurable === other.configurable
  );
}
