import { AsyncLocalStorage } from "node:async_hooks";
import {
  between,
  cached,
  decorate,
  decorateClass,
  guard,
  layer,
  limited,
  logging,
  retrying,
  timing,
  withArguments,
} from "sleeve";

const TIMES = 20_000;

/** Its methods only read, so that loops do not measure the store forwarding of the processor. */
class Gauge {
  zero = 7;
  level(hour, gauge) {
    return (hour * 3 + gauge + this.zero) & 0xffff;
  }
  reading(at) {
    return at;
  }
  name(station) {
    return station;
  }
  async later(hour) {
    return hour;
  }
}

/** The sink of logs and samples. It keeps the last one, so that no entry is optimised away. */
export const sink = { last: undefined, info: (entry) => keep(entry), error: (entry) => keep(entry) };
function keep(entry) {
  sink.last = entry;
}

const silent = { ...sink, isLevelEnabled: () => false };
const onSample = (sample) => keep(sample);

const loopLevel = (gauge, times) => () => {
  let total = 0;
  for (let time = 0; time < times; time++) total = (total + gauge.level(time & 15, 3)) | 0;
  return total;
};

const loopLater = (gauge, times) => async () => {
  let total = 0;
  for (let time = 0; time < times / 10; time++) total = (total + (await gauge.later(time & 15))) | 0;
  return total;
};

/** A loop of its own for each contender, so that each is optimised for its subject. */
const level = (gauge) => ownLoop(loopLevel, gauge);
const later = (gauge) => ownLoop(loopLater, gauge);
function ownLoop(loop, gauge) {
  return new Function(`return (${loop})`)()(gauge, TIMES);
}

const SECRET =
  /pass(word|phrase|code|wd)|pwd|secret|token|credential|authori[sz]ation|api[-_]?key|private[-_]?key|cookie/i;
const secretNames = new Map();
function isSecret(name) {
  let is = secretNames.get(name);
  if (is === undefined) {
    is = SECRET.test(name);
    secretNames.set(name, is);
  }
  return is;
}

/** A copy without secrets, as deep as the library's. */
function safeCopy(value, depth = 0) {
  if (typeof value === "string") return value.length > 200 ? `${value.slice(0, 200)}…` : value;
  if (typeof value !== "object" || value === null) return value;
  if (depth === 4) return "…";
  if (Array.isArray(value)) return value.slice(0, 200).map((item) => safeCopy(item, depth + 1));
  if (value instanceof Date) return new Date(value.getTime());
  const copy = {};
  for (const key of Object.keys(value))
    copy[key] = isSecret(key) ? "[redacted]" : safeCopy(value[key], depth + 1);
  return copy;
}

const calls = new AsyncLocalStorage();
let lastCall = 0;

/** Logged by hand: numbered calls, the number of the outer call across awaits, and copies without secrets. */
class LoggedByHand {
  #gauge;
  #logger;
  constructor(gauge, logger) {
    this.#gauge = gauge;
    this.#logger = logger;
  }
  level(hour, gauge) {
    const call = ++lastCall;
    const within = calls.getStore() ?? call;
    const args = [safeCopy(hour), safeCopy(gauge)];
    this.#logger.info({ call, within, member: "level", event: "called", args }, "level called");
    try {
      const value = calls.run(within, () => this.#gauge.level(hour, gauge));
      this.#logger.info(
        { call, within, member: "level", event: "returned", value: safeCopy(value) },
        "level returned",
      );
      return value;
    } catch (error) {
      this.#logger.error({ call, within, member: "level", event: "threw", error }, "level threw");
      throw error;
    }
  }
  reading(at) {
    const call = ++lastCall;
    const within = calls.getStore() ?? call;
    const args = [safeCopy(at)];
    this.#logger.info({ call, within, member: "reading", event: "called", args }, "reading called");
    try {
      const value = calls.run(within, () => this.#gauge.reading(at));
      this.#logger.info(
        { call, within, member: "reading", event: "returned", value: safeCopy(value) },
        "reading returned",
      );
      return value;
    } catch (error) {
      this.#logger.error({ call, within, member: "reading", event: "threw", error }, "reading threw");
      throw error;
    }
  }
}

/** The same for a level that is off: failures are still logged. */
class QuietByHand {
  #gauge;
  #logger;
  constructor(gauge, logger) {
    this.#gauge = gauge;
    this.#logger = logger;
  }
  level(hour, gauge) {
    const call = ++lastCall;
    if (this.#logger.isLevelEnabled("info")) throw new Error("the level is off");
    try {
      return this.#gauge.level(hour, gauge);
    } catch (error) {
      this.#logger.error({ call, member: "level", event: "threw", error }, "level threw");
      throw error;
    }
  }
}

class TimedByHand {
  #gauge;
  constructor(gauge) {
    this.#gauge = gauge;
  }
  level(hour, gauge) {
    const start = performance.now();
    try {
      const result = this.#gauge.level(hour, gauge);
      onSample({ member: "level", status: "returned", start, milliseconds: performance.now() - start });
      return result;
    } catch (error) {
      onSample({ member: "level", status: "threw", start, milliseconds: performance.now() - start });
      throw error;
    }
  }
}

class GuardedByHand {
  #gauge;
  constructor(gauge) {
    this.#gauge = gauge;
  }
  level(hour, gauge) {
    if (typeof hour !== "number" || !(hour >= 0 && hour <= 23))
      throw new RangeError("level: hour is not between 0 and 23");
    if (!isGauge(gauge)) throw new RangeError("level: gauge is not what isGauge allows");
    return this.#gauge.level(hour, gauge);
  }
}
const isGauge = (gauge) => gauge > 0;

class LimitedByHand {
  #gauge;
  #free = 4;
  #queue = [];
  constructor(gauge) {
    this.#gauge = gauge;
  }
  later(hour) {
    if (this.#free > 0) {
      this.#free -= 1;
      return this.#run(hour);
    }
    return new Promise((resolve) => this.#queue.push(resolve)).then(() => this.#run(hour));
  }
  #run(hour) {
    let result;
    try {
      result = this.#gauge.later(hour);
    } catch (error) {
      this.#leave();
      throw error;
    }
    return result.then(
      (value) => {
        this.#leave();
        return value;
      },
      (error) => {
        this.#leave();
        throw error;
      },
    );
  }
  #leave() {
    const next = this.#queue.shift();
    if (next) next();
    else this.#free += 1;
  }
}

class RetryingByHand {
  #gauge;
  constructor(gauge) {
    this.#gauge = gauge;
  }
  async later(hour) {
    for (let attempt = 1; ; attempt += 1) {
      try {
        return await this.#gauge.later(hour);
      } catch (error) {
        if (attempt === 3) throw error;
        await new Promise((resolve) =>
          setTimeout(resolve, 100 * 2 ** (attempt - 1) * (1 - 0.5 * Math.random())),
        );
      }
    }
  }
}

/** A cache by hand: arguments by value, a lifetime, least recently used entries dropped. */
class CachedByHand {
  #gauge;
  #entries = new Map();
  constructor(gauge) {
    this.#gauge = gauge;
  }
  reading(at) {
    return this.#through(`reading ${keyOf(at)}`, () => this.#gauge.reading(at));
  }
  name(station) {
    return this.#through(`name ${keyOf(station)}`, () => this.#gauge.name(station));
  }
  #through(key, compute) {
    const found = this.#entries.get(key);
    if (found && Date.now() < found.until) {
      this.#entries.delete(key);
      this.#entries.set(key, found);
      return found.value;
    }
    const value = compute();
    this.#entries.set(key, { value, until: Date.now() + 600_000 });
    if (this.#entries.size > 1000) this.#entries.delete(this.#entries.keys().next().value);
    return value;
  }
}

/** The same text for equal values, and different texts for values of different types. */
function keyOf(value) {
  switch (typeof value) {
    case "number":
      return Object.is(value, -0) ? "n-0" : `n${value}`;
    case "string":
      return `s${value.length}:${value}`;
    case "object":
      if (value === null) return "null";
      if (Array.isArray(value)) return `[${value.map(keyOf).join()}]`;
      return `{${Object.keys(value)
        .sort()
        .map((key) => `${keyOf(key)}=${keyOf(value[key])}`)
        .join()}}`;
    default:
      return `${typeof value} ${String(value)}`;
  }
}

const loopReading = (make) => (gauge) =>
  new Function(
    "make",
    "gauge",
    `return () => { let last; for (let time = 0; time < ${TIMES / 4}; time++) last = gauge.reading(make(time)); return last; }`,
  )(make, gauge);

const numbers = loopReading((time) => time & 7);
const texts = loopReading((time) => `PE-${time & 7}`);
const objects = loopReading((time) => ({ station: "PE-1", hour: time & 7, unit: "m" }));
const misses = loopReading((time) => time);

class OwnByHand {
  #gauge;
  constructor(gauge) {
    this.#gauge = gauge;
  }
  level(hour, gauge) {
    return this.#gauge.level(hour < 0 ? 0 : hour, gauge);
  }
}

const logged = () => logging({ logger: sink });

/** Rows: what is measured, what it is measured against, and both. */
export const rows = {
  "layer.logging.on.number": {
    against: "numbered entries with copies without secrets, by hand",
    make: () => [level(decorate(new Gauge(), logged())), level(new LoggedByHand(new Gauge(), sink))],
  },
  "layer.logging.on.object": {
    against: "the same",
    make: () => [objects(decorate(new Gauge(), logged())), objects(new LoggedByHand(new Gauge(), sink))],
  },
  "layer.logging.off": {
    against: "a check of the level, and failures logged, by hand",
    make: () => [
      level(decorate(new Gauge(), logging({ logger: silent }))),
      level(new QuietByHand(new Gauge(), silent)),
    ],
  },
  "layer.timing": {
    against: "two readings of the clock and one sample, by hand",
    make: () => [level(decorate(new Gauge(), timing({ onSample }))), level(new TimedByHand(new Gauge()))],
  },
  "layer.guard": {
    against: "two checks by hand",
    make: () => [
      level(decorate(new Gauge(), guard({ level: [between(0, 23), isGauge] }))),
      level(new GuardedByHand(new Gauge())),
    ],
  },
  "layer.limited": {
    against: "a counter and a queue, by hand",
    isAsync: true,
    make: () => [
      later(decorate(new Gauge(), limited({ only: ["later"], concurrency: 4 }))),
      later(new LimitedByHand(new Gauge())),
    ],
  },
  "layer.retrying": {
    against: "a loop by hand",
    isAsync: true,
    make: () => [
      later(decorate(new Gauge(), retrying({ only: ["later"] }))),
      later(new RetryingByHand(new Gauge())),
    ],
  },
  "layer.cached.hit.number": {
    against: "a map with lifetimes and eviction, by hand",
    make: () => [
      numbers(decorate(new Gauge(), cached({ ttl: "10m" }))),
      numbers(new CachedByHand(new Gauge())),
    ],
  },
  "layer.cached.hit.string": {
    against: "the same",
    make: () => [texts(decorate(new Gauge(), cached({ ttl: "10m" }))), texts(new CachedByHand(new Gauge()))],
  },
  "layer.cached.hit.object": {
    against: "the same",
    make: () => [
      objects(decorate(new Gauge(), cached({ ttl: "10m" }))),
      objects(new CachedByHand(new Gauge())),
    ],
  },
  "layer.cached.miss": {
    against: "the same",
    make: () => [
      misses(decorate(new Gauge(), cached({ ttl: "10m" }))),
      misses(new CachedByHand(new Gauge())),
    ],
  },
  "layer.own": {
    against: "the changed argument by hand",
    make: () => [level(decorate(new Gauge(), notNegative)), level(new OwnByHand(new Gauge()))],
  },
  "layer.class": {
    against: "a subclass by hand that changes the argument",
    make: () => [level(new (decorateClass(Gauge, notNegative))()), level(new OwnSubclass())],
  },
  "layer.watchers": {
    against: "four counts before and after each call, fused by hand",
    make: () => [level(decorate(new Gauge(), ...counting())), level(new CountedByHand(new Gauge()))],
  },
};

class OwnSubclass extends Gauge {
  level(hour, gauge) {
    return super.level(hour < 0 ? 0 : hour, gauge);
  }
}

const counts = [{ calls: 0 }, { calls: 0 }, { calls: 0 }, { calls: 0 }];
const counting = () =>
  counts.map((count, index) => {
    const add = () => {
      count.calls = (count.calls + 1) | 0;
    };
    return layer(`count ${index}`, {
      watch: () => () => {
        add();
        return add;
      },
    });
  });

const [first, second, third, fourth] = counts;

class CountedByHand {
  #gauge;
  constructor(gauge) {
    this.#gauge = gauge;
  }
  level(hour, gauge) {
    this.#count();
    try {
      return this.#gauge.level(hour, gauge);
    } finally {
      this.#count();
    }
  }
  #count() {
    first.calls = (first.calls + 1) | 0;
    second.calls = (second.calls + 1) | 0;
    third.calls = (third.calls + 1) | 0;
    fourth.calls = (fourth.calls + 1) | 0;
  }
}

const notNegative = layer("notNegative", {
  call: (next) => (call) => next(withArguments(call, [call.args[0] < 0 ? 0 : call.args[0], call.args[1]])),
});
