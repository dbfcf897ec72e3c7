import { decoratorOf, type FindingName, type ImplementationInput } from "sleeve/conform";
import { BerthLedger, type Ledger, PassingLedger } from "../../corpus/ledger.ts";

export interface WrongWrapper {
  /** The fault. */
  readonly wrong: string;
  readonly findings: readonly FindingName[];
  readonly given: ImplementationInput<Ledger>;
}

type Changes = ThisType<PassingLedger & { readonly inner: Ledger }> & Record<string, unknown>;

/** Creates a decorator that forwards everything except the given changes. */
function but(wrong: string, findings: FindingName | readonly FindingName[], changes: Changes): WrongWrapper {
  class Wrong extends PassingLedger {}
  Object.defineProperties(Wrong.prototype, Object.getOwnPropertyDescriptors(changes));
  return of(wrong, findings, (inner) => new Wrong(inner));
}

function of(
  wrong: string,
  findings: FindingName | readonly FindingName[],
  wrap: (inner: Ledger) => Ledger,
): WrongWrapper {
  return {
    wrong,
    findings: [findings].flat(),
    given: decoratorOf<Ledger>({ subject: () => new BerthLedger(), wrap }),
  };
}

let lastLedger: Ledger | undefined;

/** Decorators, each with one common mistake and the exact names of its findings. */
export const wrongDecorators: readonly WrongWrapper[] = [
  of("has not all the members", ["missing", "async"], (inner) => {
    const { book, berthOf, depthAt, free, remarks, vessels, each } = new PassingLedger(inner);
    return {
      inner,
      size: 0,
      mark: "",
      book,
      berthOf,
      depthAt,
      free,
      remarks,
      vessels,
      each,
    } as unknown as Ledger;
  }),
  of("has a method where the subject has a property", ["kind", "result"], (inner) => {
    const passing = new PassingLedger(inner);
    return Object.defineProperty(passing, "size", { value: () => inner.size });
  }),
  but("swaps two arguments", ["argument", "result"], {
    depthAt(berth: number, tide: number) {
      return this.inner.depthAt(tide, berth);
    },
  }),
  but("drops an argument", ["argument", "result"], {
    depthAt(berth: number) {
      return (this.inner.depthAt as (berth: number) => Promise<number>)(berth);
    },
  }),
  but("makes texts of numbers on the way", "argument", {
    free(berth: number) {
      this.inner.free(String(berth) as never);
    },
  }),
  but("trims what it passes", ["argument", "order", "result"], {
    settle(vessel: string) {
      return this.inner.settle(typeof vessel === "string" ? vessel.slice(1) : vessel);
    },
  }),
  but("passes another callback than it was given", "argument", {
    each(send: (vessel: string) => void) {
      this.inner.each((vessel) => send(vessel));
    },
  }),
  but("passes a default for what was left out", ["argument", "result"], {
    depthAt(berth: number, tide: number) {
      return this.inner.depthAt(berth, tide || 1);
    },
  }),
  but("adds to the result", "result", {
    async depthAt(berth: number, tide: number) {
      return (await this.inner.depthAt(berth, tide)) + 1;
    },
  }),
  but("makes null of undefined", "result", {
    berthOf(vessel: string) {
      return this.inner.berthOf(vessel) ?? null;
    },
  }),
  but("gives a copy of the result", "result", {
    remarks(berth: number) {
      return [...this.inner.remarks(berth)];
    },
  }),
  but("drops the result", "result", {
    remarks(berth: number) {
      this.inner.remarks(berth);
    },
  }),
  but("gives a list in place of an iterator", "result", {
    vessels() {
      return [...this.inner.vessels()];
    },
  }),
  but("reads the iterator that it gives", "result", {
    vessels() {
      const vessels = this.inner.vessels();
      for (const _ of vessels);
      return vessels;
    },
  }),
  but("swallows an error", "error", {
    free(berth: number) {
      try {
        this.inner.free(berth);
      } catch {}
    },
  }),
  but("swallows a rejection", "error", {
    settle(vessel: string) {
      return this.inner.settle(vessel).catch(() => undefined);
    },
  }),
  but("replaces an error by another", "error", {
    free(berth: number) {
      try {
        this.inner.free(berth);
      } catch (cause) {
        throw new Error("the ledger failed", { cause });
      }
    },
  }),
  but("rethrows no more than the message", ["error", "nonerror"], {
    free(berth: number) {
      try {
        this.inner.free(berth);
      } catch (error) {
        throw (error as Error).message;
      }
    },
  }),
  but("fails with what it does after the call", "error", {
    settle(vessel: string) {
      return this.inner
        .settle(vessel)
        .then((reported) => (reported as unknown as { skipper: { name: string } }).skipper.name);
    },
  }),
  but("makes a promise of a synchronous result", "async", {
    async berthOf(vessel: string) {
      return this.inner.berthOf(vessel);
    },
  }),
  but("makes a promise of what gives nothing", "async", {
    async free(berth: number) {
      this.inner.free(berth);
    },
  }),
  but("drops the promise", ["async", "error"], {
    settle(vessel: string) {
      this.inner.settle(vessel).catch(() => {});
    },
  }),
  but("settles before its subject does", ["order", "result"], {
    async depthAt(berth: number, tide: number) {
      this.inner.depthAt(berth, tide).catch(() => {});
      return 4;
    },
  }),
  but("puts off what it should do at once", ["order", "error"], {
    free(berth: number) {
      queueMicrotask(() => {
        try {
          this.inner.free(berth);
        } catch {}
      });
    },
  }),
  but("gives the subject where it should give itself", ["leak", "fluent"], {
    book(vessel: string, berth: number) {
      return this.inner.book(vessel, berth);
    },
  }),
  but("gives nothing where it should give itself", "fluent", {
    book(vessel: string, berth: number) {
      this.inner.book(vessel, berth);
    },
  }),
  but("gives another wrapper where it should give itself", "fluent", {
    book(vessel: string, berth: number) {
      this.inner.book(vessel, berth);
      return new PassingLedger(this.inner);
    },
  }),
  but("calls twice", "calls", {
    free(berth: number) {
      try {
        this.inner.free(berth);
      } catch {}
      this.inner.free(berth);
    },
  }),
  but("tries again where the subject fails", "calls", {
    settle(vessel: string) {
      return this.inner.settle(vessel).catch(() => this.inner.settle(vessel));
    },
  }),
  but("forgets to call the subject", ["calls", "error"], { free() {} }),
  but("answers by itself", ["calls", "error"], {
    async settle(vessel: string) {
      return { vessel, due: 0 };
    },
  }),
  but("takes the method off its subject", ["receiver", "error"], {
    free(berth: number) {
      const { free } = this.inner;
      free.call(undefined as never, berth);
    },
  }),
  but("calls the method on itself", ["receiver", "error"], {
    remarks(berth: number) {
      const { remarks } = this.inner;
      return remarks.call({ ...this.inner } as Ledger, berth);
    },
  }),
  but("lets one call wait for another", "order", {
    async depthAt(
      this: PassingLedger & { inner: Ledger; last?: Promise<unknown> },
      berth: number,
      tide: number,
    ) {
      const before = this.last;
      let done = () => {};
      this.last = new Promise<void>((resolve) => {
        done = resolve;
      });
      await before;
      return this.inner.depthAt(berth, tide).finally(done);
    },
  }),
  but("makes the calls in another order", "order", {
    async depthAt(this: PassingLedger & { inner: Ledger; turn?: number }, berth: number, tide: number) {
      this.turn = (this.turn ?? 0) + 1;
      const waits = this.turn % 2 === 1 ? 4 : 0;
      for (let turn = 0; turn < waits; turn += 1) await undefined;
      return this.inner.depthAt(berth, tide);
    },
  }),
  of("keeps its subject in the module", "shared", (inner) => {
    lastLedger = inner;
    class Wrong extends PassingLedger {
      override remarks(berth: number): string[] {
        return (lastLedger as Ledger).remarks(berth);
      }
    }
    return new Wrong(inner);
  }),
  of("copies a property when it is made", "result", (inner) => {
    const passing = new PassingLedger(inner);
    return Object.defineProperty(passing, "size", { value: inner.size });
  }),
  but("does not write through", "result", {
    get mark() {
      return this.inner.mark;
    },
    set mark(_mark: string) {},
  }),
  but("never ends", "unsettled", {
    settle() {
      return new Promise(() => {});
    },
  }),
  but("goes round and round", "unsettled", {
    remarks() {
      for (;;);
    },
  }),
  but("throws what is no error", ["nonerror", "error"], {
    free() {
      throw "busy";
    },
  }),
  but("changes what it is given", "mutated", {
    remarks(this: { inner: Ledger }, berth: number) {
      const answer = this.inner.remarks(berth);
      if (typeof berth === "object" && berth !== null) Object.assign(berth as object, { seen: true });
      return answer;
    },
  }),
  but("changes its own members", ["unstable", "error"], {
    free(berth: number) {
      Object.defineProperty(this, "remarks", { value: undefined });
      this.inner.free(berth);
    },
  }),
  but("throws outside the call", "escaped", {
    free(berth: number) {
      setTimeout(() => {
        throw new Error("too late");
      });
      this.inner.free(berth);
    },
  }),
];
