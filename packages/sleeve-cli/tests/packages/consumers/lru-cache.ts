import { LRUCache } from "lru-cache";

interface Tide {
  readonly metres: number;
}

class Tides {
  readonly #cache: LRUCache<string, Tide>;

  constructor(options: LRUCache.Options<string, Tide, unknown>) {
    this.#cache = new LRUCache(options);
  }

  at(station: string): number {
    const known = this.#cache.get(station);
    if (known) return known.metres;
    const made = { metres: station.length };
    this.#cache.set(station, made, { ttl: 5000 });
    return made.metres;
  }

  get size(): number {
    return this.#cache.size;
  }
}

const gone: string[] = [];
const tides = new Tides({ max: 2, dispose: (_value, key, reason) => gone.push(`${key} ${reason}`) });
console.log(tides.at("quay"), tides.at("bar"), tides.at("spit"), tides.size, gone.join());
const cache = new LRUCache<string, number>({ max: 5, fetchMethod: async (key) => key.length });
console.log(await cache.fetch("fog"), cache.has("fog"), cache.peek("none"), [...cache.keys()].join());
cache.delete("fog");
cache.clear();
