import { EventEmitter } from "node:events";
import fc from "fast-check";
import {
  access,
  adapter,
  bridge,
  cached,
  decorate,
  facade,
  guard,
  logging,
  open,
  proxy,
  recorded,
  timing,
  undoable,
} from "sleeve";
import {
  adapterOf,
  bridgeOf,
  type Contract,
  cacheOf,
  contract,
  decoratorOf,
  facadeOf,
  guardOf,
  type ImplementationInput,
  proxyOf,
} from "sleeve/conform";
import { BerthLedger, type Ledger, ledgerContract, PassingLedger } from "../../corpus/ledger.ts";
import {
  admitTerms,
  type Channels,
  channelContract,
  channels,
  type Desk,
  Gauge,
  heightsContract,
  lock,
  lockContract,
  NoHeight,
  officeContract,
  refuses,
  rightHeights,
  rightOffice,
  SlowTides,
  type Subsystems,
  subsystems,
  tidesContract,
} from "./wrong-others.ts";

export interface RightWrapper {
  /** Why it looks wrong. */
  readonly right: string;
  readonly contract: Contract<object>;
  readonly given: ImplementationInput<object>;
}

function entry<Target extends object>(
  right: string,
  of: Contract<Target>,
  given: ImplementationInput<Target>,
): RightWrapper {
  // Entries are only run, so their types do not matter.
  return {
    right,
    contract: of as unknown as Contract<object>,
    given: given as unknown as ImplementationInput<object>,
  };
}

const ledger = (
  right: string,
  wrap: (inner: Ledger) => Ledger,
  subject: () => Ledger = () => new BerthLedger(),
) => entry<Ledger>(right, ledgerContract, decoratorOf<Ledger>({ subject, wrap }));

const quiet = { info: () => {}, error: () => {} };

class LateLedger extends PassingLedger {
  override async depthAt(berth: number, tide: number): Promise<number> {
    await undefined;
    const depth = await this.inner.depthAt(berth, tide);
    return depth;
  }
  override async settle(vessel: string): Promise<{ readonly vessel: string; readonly due: number }> {
    try {
      return await super.settle(vessel);
    } catch (error) {
      await undefined;
      throw error;
    }
  }
}

class CountingLedger extends PassingLedger {
  count = 0;
  readonly times: string[] = [];
  override remarks(...args: [number]): string[] {
    this.count += 1;
    this.times.push(`${args.length} arguments`);
    const remarks = this.inner.remarks(...args);
    this.times.push(`${remarks.length} remarks`);
    return remarks;
  }
}

const transparent = (inner: Ledger): Ledger => {
  const wrapper: Ledger = new Proxy(inner, {
    get(target, key) {
      const value: unknown = Reflect.get(target, key, target);
      if (typeof value !== "function") return value;
      return (...args: unknown[]) => {
        const result: unknown = Reflect.apply(value, target, args);
        return result === target ? wrapper : result;
      };
    },
    set: (target, key, value) => Reflect.set(target, key, value, target),
  });
  return wrapper;
};

const inheriting = (inner: Ledger): Ledger => {
  const wrapper = Object.create(inner) as Ledger;
  const names = ["berthOf", "depthAt", "free", "remarks", "vessels", "each", "settle"] as const;
  for (const name of names) {
    const method = (inner[name] as (...args: unknown[]) => unknown).bind(inner);
    Object.defineProperty(wrapper, name, { value: (...args: unknown[]) => method(...args) });
  }
  return Object.defineProperties(wrapper, {
    book: {
      value: (vessel: string, berth: number) => {
        inner.book(vessel, berth);
        return wrapper;
      },
    },
    size: { get: () => inner.size },
    mark: {
      get: () => inner.mark,
      set: (mark: string) => {
        inner.mark = mark;
      },
    },
  });
};

const decorators = [
  ledger("is written by hand", (inner) => new PassingLedger(inner)),
  ledger("waits more often than it needs to", (inner) => new LateLedger(inner)),
  ledger("has members and state of its own", (inner) => new CountingLedger(inner)),
  ledger("hides its methods behind a transparent proxy", transparent),
  ledger("inherits from its subject", inheriting),
  ledger("is frozen", (inner) => Object.freeze(new PassingLedger(inner))),
  ledger("wraps a wrapper", (inner) => new PassingLedger(new PassingLedger(inner))),
  ledger("has three layers", (inner) =>
    decorate(
      inner,
      logging({ logger: quiet }),
      timing({ onSample: () => {} }),
      recorded({ onRecord: () => {} }),
    ),
  ),
  ledger("forwards by an open proxy", (inner) => decorate(inner, open(), timing({ onSample: () => {} }))),
  ledger(
    "wraps a frozen subject",
    (inner) => new PassingLedger(inner),
    () => Object.freeze(new BerthLedger()),
  ),
  entry<Ledger>(
    "is made late",
    ledgerContract,
    proxyOf<Ledger>({
      subject: () => new BerthLedger(),
      wrap: (inner) =>
        proxy(() => inner, {
          surface: {
            size: "property",
            mark: "property",
            book: "method",
            berthOf: "method",
            depthAt: "method",
            free: "method",
            remarks: "method",
            vessels: "method",
            each: "method",
            settle: "method",
          },
        }),
    }),
  ),
  entry<Ledger>(
    "declares with a suppression that it delays calls",
    ledgerContract,
    decoratorOf<Ledger>({
      subject: () => new BerthLedger(),
      wrap: (inner) => {
        let last: Promise<unknown> = Promise.resolve();
        class InTurn extends PassingLedger {
          override depthAt(berth: number, tide: number): Promise<number> {
            const result = last.then(() => this.inner.depthAt(berth, tide));
            last = result.catch(() => {});
            return result;
          }
        }
        return new InTurn(inner);
      },
      suppressions: { order: "the echo sounder measures one berth at a time" },
    }),
  ),
  entry<(a: number, b: number) => number>(
    "is a function around a function",
    contract("compute"),
    decoratorOf<(a: number, b: number) => number>({
      subject: () =>
        function compute(this: unknown, a: number, b: number) {
          return Number(a) - Number(b);
        },
      wrap: (compute) => (a, b) => compute(a, b),
    }),
  ),
  entry<{ now(): number }>(
    "has a subject that answers differently each time",
    contract("Clock"),
    decoratorOf<{ now(): number }>({
      subject: () => {
        let now = Math.random();
        return { now: () => (now += Math.random()) };
      },
      wrap: (clock) => ({ now: () => clock.now() }),
    }),
  ),
];

class Buoy extends EventEmitter {
  feet(send: (feet: number) => void): void {
    queueMicrotask(() => send(12));
  }
  override once(name: string, listener: (feet: number) => void): this {
    setTimeout(() => this.emit(name, 10));
    return super.once(name, listener);
  }
}

const others = [
  entry(
    "caches, and is notified of changes",
    tidesContract,
    cacheOf({
      subject: () => new SlowTides(),
      wrap: (tides: SlowTides) => {
        const answers = new Map<string, Promise<number>>();
        return {
          heightAt: (hour: number, mark: string) => {
            const key = JSON.stringify([hour, mark]);
            const known = answers.get(key) ?? tides.heightAt(hour, mark);
            answers.set(key, known);
            known.catch(() => answers.delete(key));
            return known;
          },
          correct: (metres: number) => {
            answers.clear();
            tides.correct(metres);
          },
          nameOf: (mark: string) => tides.nameOf(mark),
          level: (from: string, to: string) => tides.level(from, to),
        };
      },
    }),
  ),
  entry(
    "caches by the library's layer what does not change",
    tidesContract,
    cacheOf({
      subject: () => new SlowTides(),
      wrap: (tides: SlowTides) => decorate(tides, cached({ only: ["nameOf"] })) as SlowTides,
    }),
  ),
  entry(
    "refuses, and lets through what may",
    lockContract,
    guardOf({
      subject: lock,
      wrap: (inner: ReturnType<typeof lock>) =>
        decorate(
          inner,
          access((call) => call.args[0] !== "bad"),
        ) as ReturnType<typeof lock>,
      refuses,
    }),
  ),
  entry(
    "refuses by the library's guard",
    lockContract,
    guardOf({
      subject: lock,
      wrap: (inner: ReturnType<typeof lock>) => {
        const isGood = (key: string) => key !== "bad";
        return decorate(
          inner,
          guard<ReturnType<typeof lock>>({ open: { key: isGood }, openLater: { key: isGood } }),
        ) as ReturnType<typeof lock>;
      },
      refuses,
    }),
  ),
  entry(
    "adapts, by hand",
    heightsContract,
    adapterOf({ adaptee: () => new Gauge(), wrap: (gauge: Gauge) => rightHeights(gauge), owns: true }),
  ),
  entry(
    "adapts, and borrows",
    heightsContract,
    adapterOf({
      adaptee: () => new Gauge(),
      wrap: (gauge: Gauge) => ({ ...rightHeights(gauge), close: () => {} }),
      owns: false,
    }),
  ),
  entry(
    "adapts by the library's adapter",
    heightsContract,
    adapterOf({
      adaptee: () => new Gauge(),
      wrap: (gauge: Gauge) =>
        adapter<ReturnType<typeof rightHeights>, Gauge>(
          {
            heightAt: (from, hour) => from.feet(hour) * 0.3048,
            heightLater: async (from, hour) => (await from.request(hour)).feet * 0.3048,
            requested: (from, hour) =>
              new Promise((resolve, reject) => {
                from.read(hour, (error, reading) =>
                  error ? reject(error) : resolve((reading?.feet ?? 0) * 0.3048),
                );
              }),
            close: "shutdown",
          },
          { errors: (cause) => new NoHeight("no height", { cause }), owns: true },
        )(gauge),
      owns: true,
    }),
  ),
  entry(
    "waits for an event, and takes a callback for values alone",
    contract<{ next(): Promise<number>; level(): Promise<number> }>("Levels"),
    adapterOf({
      adaptee: () => new Buoy(),
      wrap: (buoy: Buoy) => ({
        next: () =>
          new Promise<number>((resolve) => buoy.once("level", (feet: number) => resolve(feet * 0.3048))),
        level: () => new Promise<number>((resolve) => buoy.feet((feet) => resolve(feet * 0.3048))),
      }),
    }),
  ),
  entry(
    "is a facade that undoes in reverse",
    officeContract,
    facadeOf({ subsystems, wrap: (all: Subsystems) => rightOffice(all), operations: { admit: admitTerms } }),
  ),
  entry(
    "is a facade of the library's",
    officeContract,
    facadeOf({
      subsystems,
      wrap: (all: Subsystems) =>
        facade({ ...all }, (operation) => ({
          admit: operation<string>()
            .steps({ height: ({ tides }, { input }) => tides.height(input) })
            .steps({
              berth: undoable(
                ({ ledger }, { input }) => ledger.book(input),
                ({ ledger }, berth) => ledger.free(berth),
              ),
            })
            .steps({
              tug: undoable(
                ({ tugs }, { berth }) => tugs.order(berth),
                ({ tugs }, tug) => tugs.cancel(tug),
              ),
            })
            .steps({ reported: ({ radio }, { input }) => radio.send(input) })
            .returns(({ tug }) => tug),
        })),
      operations: { admit: admitTerms },
    }),
  ),
  entry(
    "is a facade with steps that are made together",
    officeContract,
    facadeOf({
      subsystems,
      wrap: ({ tides, ledger }: Subsystems) => ({
        admit: async (vessel: string) => {
          const [height, berth] = await Promise.allSettled([tides.height(vessel), ledger.book(vessel)]);
          if (height.status === "rejected" || berth.status === "rejected") {
            if (berth.status === "fulfilled") await ledger.free(berth.value);
            throw new Error("not admitted");
          }
          return String(berth.value);
        },
      }),
    }),
  ),
  entry(
    "is a bridge of the library's",
    channelContract,
    bridgeOf({
      implementations: channels,
      wrap: (made: Channels) => bridge(made, { start: "vhf" }),
    }),
  ),
  entry(
    "is a bridge by hand",
    channelContract,
    bridgeOf({
      implementations: channels,
      wrap: (made: Channels): Desk => {
        let now = made.vhf;
        return {
          port: { send: (text) => now.send(text) },
          use: (name) => {
            now = made[name];
          },
        };
      },
    }),
  ),
  entry(
    "waits for its subject, within the deadline",
    contract<{ at(hour: number): Promise<number> }>("Slow", { arguments: { at: [fc.nat(3)] } }),
    decoratorOf({
      subject: () => ({
        at: (hour: number) => new Promise<number>((resolve) => setTimeout(resolve, 1, hour)),
      }),
      wrap: (slow: { at(hour: number): Promise<number> }) => ({ at: (hour: number) => slow.at(hour) }),
    }),
  ),
];

export const rightWrappers: readonly RightWrapper[] = [...decorators, ...others];
