import fc from "fast-check";
import {
  adapterOf,
  bridgeOf,
  type Contract,
  cacheOf,
  contract,
  type FindingName,
  facadeOf,
  guardOf,
  type ImplementationInput,
} from "sleeve/conform";

export interface WrongWrapper {
  readonly wrong: string;
  readonly findings: readonly FindingName[];
  readonly contract: Contract<object>;
  readonly given: ImplementationInput<object>;
}

function entry<Target extends object>(
  given: (wrap: never) => ImplementationInput<Target>,
  of: Contract<Target>,
  wrong: string,
  findings: FindingName | readonly FindingName[],
  wrap: unknown,
): WrongWrapper {
  // Entries are only run, so their types do not matter.
  return {
    wrong,
    findings: [findings].flat(),
    contract: of as unknown as Contract<object>,
    given: given(wrap as never) as unknown as ImplementationInput<object>,
  };
}

// Caches ------------------------------------------------------------------------------------------

interface Tides {
  level(from: string, to: string): { readonly between: string };
  heightAt(hour: number, mark: string): Promise<number>;
  correct(metres: number): void;
  nameOf(mark: string): string;
}

export class SlowTides implements Tides {
  #correction = 0;

  async heightAt(hour: number, mark: string): Promise<number> {
    return hour + mark.length + this.#correction;
  }

  correct(metres: number): void {
    this.#correction += metres;
  }

  nameOf(mark: string): string {
    return `mark ${mark}`;
  }

  level(from: string, to: string): { readonly between: string } {
    return { between: `${from} and ${to}` };
  }
}

export const tidesContract = contract<Tides>("Tides", {
  arguments: {
    heightAt: [fc.integer({ min: 0, max: 3 }), fc.constantFrom("a", "b", "cd")],
    correct: [fc.integer({ min: -3, max: 3 })],
    nameOf: [fc.constantFrom("a", "b", "cd")],
    level: [fc.string(), fc.string()],
  },
});

type CacheWrap = (tides: Tides, answers: Map<string, Promise<number>>) => Partial<Tides>;

const cacheWith =
  (changes: CacheWrap) =>
  (tides: Tides): Tides => ({
    heightAt: (hour, mark) => tides.heightAt(hour, mark),
    correct: (metres) => tides.correct(metres),
    nameOf: (mark) => tides.nameOf(mark),
    level: (from, to) => tides.level(from, to),
    ...changes(tides, new Map()),
  });

function memo<Value>(answers: Map<string, Value>, key: string, make: () => Value): Value {
  const known = answers.get(key);
  if (known !== undefined) return known;
  const made = make();
  answers.set(key, made);
  return made;
}

const cache = (wrong: string, findings: FindingName | readonly FindingName[], changes: CacheWrap) =>
  entry<Tides>(
    (wrap: (tides: Tides) => Tides) => cacheOf<Tides>({ subject: () => new SlowTides(), wrap }),
    tidesContract,
    wrong,
    findings,
    cacheWith(changes),
  );

const everyone = new Map<string, Promise<number>>();

const caches = [
  cache("is not notified of a change", "stale", (tides, answers) => ({
    heightAt: (hour, mark) => memo(answers, `${hour} ${mark}`, () => tides.heightAt(hour, mark)),
  })),
  cache("takes the first argument for all of them", "stale", (tides, answers) => ({
    heightAt: (hour, mark) => memo(answers, String(hour), () => tides.heightAt(hour, mark)),
    correct: (metres) => {
      answers.clear();
      tides.correct(metres);
    },
  })),
  cache("runs its arguments together", "stale", (tides, answers) => ({
    heightAt: (hour, mark) => memo(answers, String(mark.length + hour), () => tides.heightAt(hour, mark)),
    correct: (metres) => {
      answers.clear();
      tides.correct(metres);
    },
  })),
  cache("joins its arguments with a comma", "stale", (tides, answers) => ({
    heightAt: (hour, mark) => tides.heightAt(hour, mark),
    level: (from: string, to: string) =>
      memo(answers as Map<string, never>, [from, to].join(","), () => tides.level(from, to) as never),
  })),
  cache("keeps a rejected promise", "stale", (tides, answers) => ({
    heightAt: (hour, mark) => memo(answers, `${hour} ${mark}`, () => tides.heightAt(hour, mark)),
    correct: (metres) => {
      answers.clear();
      tides.correct(metres);
    },
  })),
  cache("clears before a change and not after", "stale", (tides, answers) => ({
    heightAt: (hour, mark) => memo(answers, `${hour} ${mark}`, () => tides.heightAt(hour, mark)),
    correct: (metres) => {
      if (metres > 0) answers.clear();
      tides.correct(metres);
    },
  })),
  cache("has one store for all its subjects", ["shared", "stale"], (tides) => ({
    heightAt: (hour, mark) => memo(everyone, `${hour} ${mark}`, () => tides.heightAt(hour, mark)),
    correct: (metres) => {
      tides.correct(metres);
      everyone.clear();
    },
  })),
  cache("answers in time what was answered at once", "async", (tides) => ({
    nameOf: (async (mark: string) => tides.nameOf(mark)) as never,
  })),
];

// Guards ------------------------------------------------------------------------------------------

interface Lock {
  keys(): Iterable<{ readonly name: string }>;
  open(key: string): string;
  openLater(key: string): Promise<string>;
}

class Refused extends Error {}

export const lockContract = contract<Lock>("Lock", {
  arguments: { open: [fc.constantFrom("good", "bad")], openLater: [fc.constantFrom("good", "bad")] },
});

export const lock = (): Lock => ({
  *keys() {
    yield { name: "good" };
  },
  open: (key) => `opened by ${key}`,
  openLater: async (key) => `opened by ${key}`,
});

function refuse(key: string): void {
  if (key === "bad") throw new Refused("wrong key");
}

export const refuses = {
  "a wrong key": (lock: Lock) => lock.open("bad"),
  "a wrong key, later": (lock: Lock) => lock.openLater("bad"),
};

const guard = (wrong: string, findings: FindingName | readonly FindingName[], wrap: (inner: Lock) => Lock) =>
  entry<Lock>(
    (made: (inner: Lock) => Lock) => guardOf<Lock>({ subject: lock, wrap: made, refuses }),
    lockContract,
    wrong,
    findings,
    wrap,
  );

const openLater = (inner: Lock) => async (key: string) => {
  refuse(key);
  return inner.openLater(key);
};

const guards = [
  guard("calls first and checks then", ["unguarded", "error"], (inner) => ({
    keys: () => inner.keys(),
    open: (key) => {
      const answer = inner.open(key);
      refuse(key);
      return answer;
    },
    openLater: openLater(inner),
  })),
  guard("does not wait for its check", ["unguarded", "escaped", "order"], (inner) => ({
    keys: () => inner.keys(),
    open: (key) => {
      refuse(key);
      return inner.open(key);
    },
    openLater: (key) => {
      const answer = inner.openLater(key);
      return Promise.resolve()
        .then(() => refuse(key))
        .then(() => answer);
    },
  })),
  guard("checks one member only", "refusal", (inner) => ({
    keys: () => inner.keys(),
    open: (key) => {
      refuse(key);
      return inner.open(key);
    },
    openLater: (key) => inner.openLater(key),
  })),
  guard("answers where it should refuse", ["refusal", "result"], (inner) => ({
    keys: () => inner.keys(),
    open: (key) => (key === "bad" ? "" : inner.open(key)),
    openLater: openLater(inner),
  })),
  guard("shows its subject as its prototype", "leak", (inner) =>
    Object.assign(Object.create(inner) as Lock, {
      open: (key: string) => {
        refuse(key);
        return inner.open(key);
      },
      openLater: openLater(inner),
    }),
  ),
  guard("passes other arguments than it received", ["argument", "result"], (inner) => ({
    keys: () => inner.keys(),
    open: (key) => {
      refuse(key);
      return inner.open(key.toUpperCase());
    },
    openLater: openLater(inner),
  })),
];

// Adapters ----------------------------------------------------------------------------------------

/** The outside class: feet, callbacks, its own errors and objects, and a release member. */
export class GaugeFailure extends Error {}

export class Reading {
  readonly feet: number;
  constructor(feet: number) {
    this.feet = feet;
  }
}

export class Gauge {
  feet(hour: number): number {
    if (hour > 23) throw new GaugeFailure("no such hour");
    return hour * 2;
  }
  async request(hour: number): Promise<Reading> {
    return new Reading(this.feet(hour));
  }
  read(hour: number, done: (error: Error | null, reading?: Reading) => void): void {
    queueMicrotask(() => {
      if (hour > 23) done(new GaugeFailure("no such hour"));
      else done(null, new Reading(hour * 2));
    });
  }
  shutdown(): void {}
}

interface Heights {
  heightAt(hour: number): number;
  heightLater(hour: number): Promise<number>;
  requested(hour: number): Promise<number>;
  close(): void;
}

export class NoHeight extends Error {}

const hours = [fc.integer({ min: 0, max: 30 })];

export const heightsContract = contract<Heights>("Heights", {
  surface: { heightAt: "method", heightLater: "method", requested: "method", close: "method" },
  arguments: { heightAt: hours, heightLater: hours, requested: hours },
  errors: [NoHeight],
});

export function translated<Value>(run: () => Value): Value {
  try {
    return run();
  } catch (cause) {
    throw new NoHeight("no height", { cause });
  }
}

/** A correct adapter, for variants with one fault. */
export function rightHeights(gauge: Gauge): Heights {
  let isOpen = true;
  return {
    heightAt: (hour) => translated(() => gauge.feet(hour)) * 0.3048,
    heightLater: async (hour) => {
      try {
        return (await gauge.request(hour)).feet * 0.3048;
      } catch (cause) {
        throw new NoHeight("no height", { cause });
      }
    },
    requested: (hour) =>
      new Promise((resolve, reject) => {
        gauge.read(hour, (cause, reading) => {
          if (cause || !reading) reject(new NoHeight("no height", { cause }));
          else resolve(reading.feet * 0.3048);
        });
      }),
    close: () => {
      if (isOpen) translated(() => gauge.shutdown());
      isOpen = false;
    },
  };
}

const adapter = (
  wrong: string,
  findings: FindingName | readonly FindingName[],
  changes: (gauge: Gauge) => object,
  owns: boolean | undefined = true,
) =>
  entry<Heights>(
    (wrap: (gauge: Gauge) => Heights) =>
      adapterOf<Heights, Gauge>({ adaptee: () => new Gauge(), wrap, ...(owns !== undefined && { owns }) }),
    heightsContract,
    wrong,
    findings,
    (gauge: Gauge) => ({ ...rightHeights(gauge), ...changes(gauge) }),
  );

const adapters = [
  adapter("lets an outside error out", "escaped", (gauge) => ({
    heightAt: (hour: number) => gauge.feet(hour),
  })),
  adapter("lets an outside rejection out", "escaped", (gauge) => ({
    heightLater: async (hour: number) => (await gauge.request(hour)).feet,
  })),
  adapter("lets out the error of a callback", "escaped", (gauge) => ({
    requested: (hour: number) =>
      new Promise((resolve, reject) =>
        gauge.read(hour, (error, reading) => (error ? reject(error) : resolve(reading?.feet))),
      ),
  })),
  adapter("lets an outside object out", "leak", (gauge) => ({
    heightLater: (hour: number) => gauge.request(hour).catch(() => translated(() => gauge.feet(99))),
  })),
  adapter("lets an outside object out in a list", "leak", (gauge) => ({
    heightLater: async (hour: number) => {
      const reading = await gauge.request(hour).catch(() => undefined);
      if (!reading) throw new NoHeight();
      return [{ reading }];
    },
  })),
  adapter("gives the adaptee itself", "leak", (gauge) => ({ heightAt: () => gauge })),
  adapter("takes a failure for nothing", "error", (gauge) => ({
    heightAt: (hour: number) => {
      try {
        return gauge.feet(hour);
      } catch {
        return 0;
      }
    },
  })),
  adapter("does not look at the error of a callback", "error", (gauge) => ({
    requested: (hour: number) =>
      new Promise((resolve) => gauge.read(hour, (_, reading) => resolve(reading?.feet ?? 0))),
  })),
  adapter("waits for ever where a callback fails", "unsettled", (gauge) => ({
    requested: (hour: number) =>
      new Promise((resolve) => gauge.read(hour, (_, reading) => reading && resolve(reading.feet))),
  })),
  adapter("leaves out a member", ["missing", "escaped"], () => ({ requested: undefined })),
  adapter("does not release what it owns", "release", () => ({ close: () => {} })),
  adapter("releases what it owns twice", ["release", "escaped"], (gauge) => ({
    close: () => gauge.shutdown(),
  })),
  adapter("releases what it has borrowed", "release", () => ({}), false),
];

// Facades -----------------------------------------------------------------------------------------

export interface Subsystems {
  readonly tides: { height(vessel: string): Promise<number> };
  readonly ledger: { book(vessel: string): Promise<number>; free(berth: number): Promise<void> };
  readonly tugs: { order(berth: number): Promise<string>; cancel(tug: string): Promise<void> };
  readonly radio: { send(text: string): void; facade?: Office };
}

export interface Office {
  admit(vessel: string): Promise<string>;
}

export const subsystems = (): Subsystems => ({
  tides: { height: async () => 4 },
  ledger: { book: async () => 3, free: async () => {} },
  tugs: { order: async (berth) => `tug for ${berth}`, cancel: async () => {} },
  radio: {
    send(this: { facade?: Office; hasCalled?: boolean }) {
      if (!this.hasCalled) this.facade?.admit("another").catch(() => {});
      this.hasCalled = true;
    },
  },
});

export const officeContract = contract<Office>("Office", {
  arguments: { admit: [fc.constantFrom("Marigold", "Tern")] },
});

export const admitTerms = {
  steps: ["tides.height", "ledger.book", "tugs.order", "radio.send"],
  undo: { "ledger.book": "ledger.free", "tugs.order": "tugs.cancel" },
};

const facade = (
  wrong: string,
  findings: FindingName | readonly FindingName[],
  admit: (all: Subsystems, vessel: string) => Promise<string>,
  isDeclared = true,
) =>
  entry<Office>(
    (wrap: (all: Subsystems) => Office) =>
      facadeOf<Office, Subsystems>({
        subsystems,
        wrap,
        ...(isDeclared && { operations: { admit: admitTerms } }),
      }),
    officeContract,
    wrong,
    findings,
    (all: Subsystems) => {
      const office: Office = { admit: (vessel) => admit(all, vessel) };
      return office;
    },
  );

/** Books and orders, and undoes completed steps in the given order. */
async function admitted(
  { tides, ledger, tugs, radio }: Subsystems,
  vessel: string,
  undo: (done: (() => Promise<void>)[]) => (() => Promise<void>)[],
): Promise<string> {
  const done: (() => Promise<void>)[] = [];
  try {
    await tides.height(vessel);
    const berth = await ledger.book(vessel);
    done.push(() => ledger.free(berth));
    const tug = await tugs.order(berth);
    done.push(() => tugs.cancel(tug));
    radio.send(`${vessel} to ${berth} with ${tug}`);
    return tug;
  } catch (error) {
    // Undoing may fail too.
    for (const item of undo(done)) await item().catch(() => {});
    throw error;
  }
}

export const rightOffice = (all: Subsystems): Office => ({
  admit: (vessel) => admitted(all, vessel, (done) => done.reverse()),
});

const facades = [
  facade(
    "undoes in the order in which it did",
    "undo",
    (all, vessel) => admitted(all, vessel, (done) => done),
    false,
  ),
  facade("undoes nothing", "undo", (all, vessel) => admitted(all, vessel, () => [])),
  facade("undoes the last step only", "undo", (all, vessel) =>
    admitted(all, vessel, (done) => done.slice(-1)),
  ),
  facade("undoes twice", "undo", (all, vessel) =>
    admitted(all, vessel, (done) => [...done.reverse(), ...done]),
  ),
  facade(
    "makes its steps in another order",
    ["step", "undo"],
    async ({ tides, ledger, tugs, radio }, vessel) => {
      const berth = await ledger.book(vessel);
      try {
        await tides.height(vessel);
      } catch (error) {
        await ledger.free(berth);
        throw error;
      }
      const tug = await tugs.order(berth);
      radio.send(tug);
      return tug;
    },
  ),
  facade("leaves out a step", ["step", "undo"], async ({ ledger, tugs, radio }, vessel) => {
    const tug = await tugs.order(await ledger.book(vessel));
    radio.send(tug);
    return tug;
  }),
  facade(
    "goes on after a refusal",
    ["step", "undo"],
    async (all, vessel) => {
      await all.tides.height(vessel).catch(() => 0);
      return admitted({ ...all, tides: { height: async () => 4 } }, vessel, (done) => done.reverse());
    },
    false,
  ),
  facade("says that all went well where it did not", "error", (all, vessel) =>
    admitted(all, vessel, (done) => done.reverse()).catch(() => "tug for 3"),
  ),
  entry<Office>(
    (wrap: (all: Subsystems) => Office) => facadeOf<Office, Subsystems>({ subsystems, wrap }),
    officeContract,
    "is called by one of its subsystems",
    "reentry",
    (all: Subsystems) => {
      const office = rightOffice(all);
      (all.radio as { facade?: Office }).facade = office;
      return office;
    },
  ),
];

// Bridges -----------------------------------------------------------------------------------------

export interface Channel {
  send(text: string): Promise<string>;
}

export const channels = {
  vhf: (): Channel => ({ send: async (text) => `said ${text}` }),
  lights: (): Channel => ({ send: async (text) => `shown ${text}` }),
};

export type Channels = { readonly vhf: Channel; readonly lights: Channel };
export type Desk = { readonly port: Channel; use(name: keyof Channels): unknown };

export const channelContract = contract<Channel>("Channel", {
  surface: { send: "method" },
  arguments: { send: [fc.constantFrom("fog", "gale")] },
  results: { send: (answer) => /^(said|shown) /.test(answer) },
});

const bridge = (
  wrong: string,
  findings: FindingName | readonly FindingName[],
  wrap: (made: Channels) => Desk,
) =>
  entry<Channel>(
    (made: (all: Channels) => Desk) => bridgeOf<Channel, Channels>({ implementations: channels, wrap: made }),
    channelContract,
    wrong,
    findings,
    wrap,
  );

const bridges = [
  bridge("stays with the first implementation", "swap", ({ vhf }) => ({
    port: { send: (text) => vhf.send(text) },
    use: () => {},
  })),
  bridge("loses calls while it changes", "swap", (made) => {
    let now: Channel | undefined = made.vhf;
    return {
      port: { send: (text) => now?.send(text) ?? Promise.resolve("said nothing") },
      use: (name) => {
        now = undefined;
        setTimeout(() => {
          now = made[name];
        });
      },
    };
  }),
  bridge("sends again what is under way when it changes", "swap", (made) => {
    let now: Channel = made.vhf;
    const underWay = new Set<string>();
    return {
      port: {
        send: (text) => {
          underWay.add(text);
          return now.send(text).finally(() => underWay.delete(text));
        },
      },
      use: (name) => {
        now = made[name];
        for (const text of underWay) now.send(text).catch(() => {});
      },
    };
  }),
  bridge("calls every implementation", "swap", (made) => ({
    port: {
      send: async (text) => {
        await made.lights.send(text);
        return made.vhf.send(text);
      },
    },
    use: () => {},
  })),
  bridge("has an implementation that keeps no contract", ["result", "swap"], (made) => {
    let now: Channel = made.vhf;
    return {
      port: {
        send: async (text) =>
          (now === made.lights ? (await now.send(text)).length : now.send(text)) as Promise<string>,
      },
      use: (name) => {
        now = made[name];
      },
    };
  }),
];

export const wrongOthers: readonly WrongWrapper[] = [
  ...caches,
  ...guards,
  ...adapters,
  ...facades,
  ...bridges,
];
