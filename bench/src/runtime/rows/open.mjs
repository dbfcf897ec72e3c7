import { access, decorate, deep, open } from "sleeve";

const TIMES = 10_000;

class Gauge {
  #zero = 7;
  level(hour) {
    return (hour * 3 + this.#zero) & 0xffff;
  }
  get part() {
    return this.#part;
  }
  #part = new Part();
}
class Part {
  #size = 3;
  width(factor) {
    return (factor * this.#size) & 0xff;
  }
}

function loop(gauge) {
  return new Function(
    "gauge",
    `return () => { let total = 0; for (let time = 0; time < ${TIMES}; time++) total = (total + gauge.level(time & 15)) | 0; return total; }`,
  )(gauge);
}

function deepLoop(gauge) {
  return new Function(
    "gauge",
    `return () => { let total = 0; for (let time = 0; time < ${TIMES}; time++) total = (total + gauge.part.width(time & 15)) | 0; return total; }`,
  )(gauge);
}

/**
 * A proxy by hand with the same behaviour: methods keep their identity and run on the subject, the subject comes out as
 * the proxy, and `check` sees each call with a copy of its arguments.
 */
function openByHand(subject, check, wrapResult = (value) => value) {
  const methods = new WeakMap();
  const proxy = new Proxy(subject, {
    get(target, key, receiver) {
      const value = Reflect.get(target, key, target);
      if (typeof value !== "function") return wrapResult(value);
      let method = methods.get(value);
      if (method) return method;
      method = function (...args) {
        if (this !== receiver && this !== proxy) return Reflect.apply(value, this, args);
        if (check && check({ use: "call", member: key, args: args.slice() }) !== true)
          throw new Error(`${key} is denied`);
        const result = Reflect.apply(value, target, args);
        return result === target ? proxy : wrapResult(result);
      };
      Object.defineProperty(method, "name", { value: value.name });
      methods.set(value, method);
      return method;
    },
  });
  return proxy;
}

/** The same for every object that comes out. */
function deepByHand(subject) {
  const proxies = new WeakMap();
  const toProxy = (value) => {
    if (typeof value !== "object" || value === null) return value;
    let proxy = proxies.get(value);
    if (!proxy) {
      proxy = openByHand(value, undefined, toProxy);
      proxies.set(value, proxy);
    }
    return proxy;
  };
  return toProxy(subject);
}

class Closed {
  #reason = "closed";
  level() {
    throw Object.assign(new RangeError(this.#reason), { berth: 4 });
  }
}

function failingLoop(gauge) {
  return () => {
    let count = 0;
    for (let time = 0; time < TIMES / 10; time++) {
      try {
        gauge.level();
      } catch (error) {
        count += error.berth;
      }
    }
    return count;
  };
}

/** The same proxy, with a copy of each error that formats the stack when it is read, and keeps nothing of the original. */
function sealedByHand(subject, check) {
  const originals = new WeakMap();
  const copies = new WeakMap();
  const copyOf = (error) => {
    const existing = copies.get(error);
    if (existing) return existing;
    const limit = Error.stackTraceLimit;
    Error.stackTraceLimit = 0;
    const copy = new Error();
    Error.stackTraceLimit = limit;
    Object.setPrototypeOf(copy, Object.getPrototypeOf(error));
    for (const key of Reflect.ownKeys(error)) {
      if (key === "stack") continue;
      const { value, enumerable } = Reflect.getOwnPropertyDescriptor(error, key);
      Reflect.defineProperty(copy, key, { value, enumerable, writable: true, configurable: true });
    }
    Reflect.defineProperty(copy, "stack", { get: () => error.stack, configurable: true });
    originals.set(copy, error);
    copies.set(error, copy);
    return copy;
  };
  return new Proxy(openByHand(subject, check), {
    get(target, key) {
      const method = Reflect.get(target, key, target);
      return (...args) => {
        try {
          return Reflect.apply(method, target, args);
        } catch (error) {
          throw copyOf(error);
        }
      };
    },
  });
}

const may = ({ member }) => member !== "erase";

export const rows = {
  "access.allowed": {
    against: "an ES Proxy by hand that checks each call",
    make: () => [loop(decorate(new Gauge(), access(may))), loop(openByHand(new Gauge(), may))],
  },
  "errors.access": {
    against: "an ES Proxy by hand that checks each call and copies errors",
    make: () => [
      failingLoop(decorate(new Closed(), access(may))),
      failingLoop(sealedByHand(new Closed(), may)),
    ],
  },
  "open.call": {
    against: "an ES Proxy by hand",
    make: () => [loop(decorate(new Gauge(), open())), loop(openByHand(new Gauge()))],
  },
  "deep.call": {
    against: "ES Proxies by hand of all objects that come out",
    make: () => [deepLoop(decorate(new Gauge(), deep())), deepLoop(deepByHand(new Gauge()))],
  },
};
