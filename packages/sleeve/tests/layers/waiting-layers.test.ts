import fc from "fast-check";
import {
  cached,
  decorate,
  limited,
  NeverSatisfied,
  retrying,
  type Store,
  type WaitReport,
  waiting,
} from "sleeve";
import { describe, expect, test } from "vitest";
import { FakeClock, settled } from "./fake-clock.ts";

class Sums {
  calls = 0;
  mean = 3;
  heightAt(hour: number): { readonly metres: number } {
    this.calls += 1;
    return { metres: this.mean + hour };
  }
  async later(hour: number): Promise<number> {
    this.calls += 1;
    await null;
    if (hour < 0) throw new RangeError("before time");
    return this.mean + hour;
  }
  correct(mean: number): void {
    this.mean = mean;
  }
}

describe("cached", () => {
  test("never returns a result that the subject would not have returned, for random calls, writes and delays", async () => {
    const step = fc.oneof(
      fc.record({ request: fc.integer({ min: -2, max: 3 }) }),
      fc.record({ correct: fc.integer({ min: 0, max: 9 }) }),
      fc.record({ wait: fc.integer({ min: 0, max: 700 }) }),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(step, { maxLength: 30 }),
        fc.integer({ min: 1, max: 4 }),
        async (steps, size) => {
          const clock = new FakeClock();
          const subject = new Sums();
          const kept = decorate(
            subject,
            cached({ only: ["heightAt", "later"], ttl: "1s", size, clearedBy: ["correct"], clock }),
          );
          for (const step of steps) {
            if ("wait" in step) await clock.pass(step.wait);
            else if ("correct" in step) kept.correct(step.correct);
            else {
              expect(kept.heightAt(step.request)).toEqual({ metres: subject.mean + step.request });
              const later = await kept.later(step.request).catch((error: unknown) => error);
              if (step.request < 0) expect(later).toBeInstanceOf(RangeError);
              else expect(later).toBe(subject.mean + step.request);
            }
          }
        },
      ),
    );
  });

  test("computes simultaneous misses once, returns the same object, and expires it", async () => {
    const clock = new FakeClock();
    const subject = new Sums();
    const kept = decorate(subject, cached({ ttl: "10m", clock }));
    const one = kept.later(4);
    expect(kept.later(4)).toBe(one);
    await one;
    expect(kept.heightAt(4)).toBe(kept.heightAt(4));
    expect(subject.calls).toBe(2);
    await clock.pass(600_000);
    await kept.later(4);
    expect(subject.calls).toBe(3);
  });

  test("caches errors only when configured to", async () => {
    for (const errors of [false, true]) {
      const subject = new Sums();
      const kept = decorate(subject, cached({ errors }));
      for (let time = 0; time < 3; time++) await expect(kept.later(-1)).rejects.toThrow("before time");
      expect(subject.calls).toBe(errors ? 1 : 3);
    }
  });

  test("caches up to size results, and evicts the least recently used", () => {
    const subject = new Sums();
    const kept = decorate(subject, cached({ size: 2 }));
    for (const hour of [1, 2, 1, 3, 1]) kept.heightAt(hour);
    expect(subject.calls).toBe(3);
    kept.heightAt(2);
    expect(subject.calls).toBe(4);
  });

  test("distinguishes arguments by value, and objects of classes by identity", () => {
    fc.assert(
      fc.property(
        fc.array(fc.anything(), { maxLength: 3 }),
        fc.array(fc.anything(), { maxLength: 3 }),
        (left, right) => {
          const echo = decorate({ say: (...args: unknown[]) => [args] }, cached());
          expect(echo.say(...left)).toBe(echo.say(...left));
          if (JSON.stringify(left) !== JSON.stringify(right))
            expect(echo.say(...left)).not.toBe(echo.say(...right));
        },
      ),
    );
    const at = decorate({ say: (..._: unknown[]) => ({}) }, cached());
    expect(at.say({ hour: 1, day: 2 })).toBe(at.say({ day: 2, hour: 1 }));
    expect(at.say(new Date(1))).not.toBe(at.say(new Date(2)));
    expect(at.say(new Sums())).not.toBe(at.say(new Sums()));
    expect(at.say(0)).not.toBe(at.say(-0));
    expect(at.say("1")).not.toBe(at.say(1));
  });

  test("a result in flight during an invalidation is not cached", async () => {
    const subject = new Sums();
    const kept = decorate(subject, cached({ clearedBy: ["correct"] }));
    const early = kept.later(1);
    kept.correct(10);
    await early;
    expect(await kept.later(1)).toBe(11);
  });

  class MemoryStore implements Store {
    readonly kept = new Map<string, string>();
    broken = false;
    async get(key: string) {
      if (this.broken) throw new Error("gone");
      return this.kept.get(key) ?? null;
    }
    async add(key: string, text: string) {
      if (this.broken) throw new Error("gone");
      if (this.kept.has(key)) return false;
      this.kept.set(key, text);
      return true;
    }
    async delete(key: string) {
      this.kept.delete(key);
    }
  }

  test("shares results through a store: one of two computes, also when both call at once", async () => {
    const store = new MemoryStore();
    const subjects = [new Sums(), new Sums()];
    const clients = subjects.map((subject) =>
      decorate(subject, cached({ only: ["later"], store, ttl: "1m", name: "sums" })),
    );
    const answers = await Promise.all(clients.flatMap((client) => [client.later(4), client.later(4)]));
    expect(answers).toEqual([7, 7, 7, 7]);
    expect(subjects.reduce((sum, { calls }) => sum + calls, 0)).toBe(1);
    expect([...store.kept.values()]).toEqual(['{"value":7}']);
  });

  test("subjects that share a store are distinguished by the name, or by a function of the wrapper", async () => {
    const store = new MemoryStore();
    const station = (name: string) => ({ name, level: async (hour: number) => `${name} ${hour}` });
    const kept = cached({
      only: ["level"],
      store,
      ttl: "1m",
      name: ({ name }: { readonly name: string }) => name,
    });
    const [ellery, holm] = [decorate(station("Ellery"), kept), decorate(station("Holm"), kept)];
    expect([await ellery.level(4), await holm.level(4), await ellery.level(4)]).toEqual([
      "Ellery 4",
      "Holm 4",
      "Ellery 4",
    ]);
    expect([...store.kept.keys()].sort()).toEqual(["Ellery:level(4)", "Holm:level(4)"]);
  });

  test("bypasses a store that fails or hangs, and takes over an abandoned lease", async () => {
    const clock = new FakeClock();
    const store = new MemoryStore();
    const kept = decorate(
      new Sums(),
      cached({ only: ["later"], store, ttl: "1m", name: "sleeve", storeTimeout: 50, clock }),
    );
    store.broken = true;
    expect(await kept.later(1)).toBe(4);
    store.broken = false;
    store.kept.set("sleeve:later(2):claim", "claimed");
    const waits = kept.later(2);
    await clock.pass(100);
    store.kept.delete("sleeve:later(2):claim");
    await clock.pass(100);
    expect(await waits).toBe(5);
    store.get = () => new Promise(() => {});
    const silent = kept.later(3);
    await clock.pass(60);
    expect(await silent).toBe(6);
  });
});

describe("retrying", () => {
  const failing = (failures: number) => {
    const subject = {
      calls: 0,
      async read(): Promise<number> {
        subject.calls += 1;
        if (subject.calls <= failures) throw new RangeError(`attempt ${subject.calls}`);
        return subject.calls;
      },
      now(): number {
        subject.calls += 1;
        throw new RangeError("now");
      },
    };
    return subject;
  };

  test("retries up to the limit, with delays that double up to maxDelay", async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(6), fc.integer({ min: 1, max: 6 }), async (failures, attempts) => {
        const clock = new FakeClock();
        const subject = failing(failures);
        const read = decorate(
          subject,
          retrying({ only: ["read"], attempts, delay: 100, maxDelay: 350, jitter: 0, clock }),
        );
        const answer = read.read().catch((error: Error) => error.message);
        const pauses = [100, 200, 350, 350, 350].slice(0, Math.min(failures, attempts - 1));
        await clock.pass(Math.max(0, pauses.reduce((sum, pause) => sum + pause, 0) - 1));
        const before = subject.calls;
        await clock.pass(1);
        expect(before).toBe(pauses.length === 0 ? 1 : pauses.length);
        expect(await answer).toBe(failures < attempts ? failures + 1 : `attempt ${attempts}`);
      }),
    );
  });

  test("retries only selected errors, and never a synchronous call", async () => {
    const subject = failing(9);
    const read = decorate(subject, retrying({ when: (error) => !(error instanceof RangeError) }));
    await expect(read.read()).rejects.toThrow("attempt 1");
    expect(() => (read as typeof subject).now()).toThrow("now");
    expect(subject.calls).toBe(2);
  });

  test("jitter shortens a delay, and an aborted signal ends it", async () => {
    const clock = new FakeClock();
    const controller = new AbortController();
    const subject = failing(9);
    const options = {
      only: ["read"] as const,
      jitter: 0.5,
      random: () => 1,
      clock,
      signal: controller.signal,
    };
    const answer = decorate(subject, retrying(options)).read();
    await clock.pass(50);
    expect(subject.calls).toBe(2);
    controller.abort(new Error("enough"));
    await expect(answer).rejects.toThrow("enough");
    expect(clock.waiting).toBe(0);
  });
});

describe("waiting", () => {
  const rising = () => {
    const subject = {
      level: 0,
      async read() {
        subject.level += 1;
        return subject.level;
      },
    };
    return subject;
  };

  test("polls until the condition holds, and reports the duration", async () => {
    const clock = new FakeClock();
    const waited: WaitReport[] = [];
    const gauge = decorate(
      rising(),
      waiting({
        only: ["read"],
        until: (level: number) => level >= 3,
        interval: 200,
        onWait: (waitReport) => waited.push(waitReport),
        clock,
      }),
    );
    const answer = gauge.read();
    await clock.pass(1000);
    expect(await answer).toBe(3);
    expect(waited).toEqual([{ member: "read", milliseconds: 400, attempts: 3, satisfied: true }]);
  });

  test("fails at the timeout with the last value, also if the subject does not answer", async () => {
    const clock = new FakeClock();
    const layers = waiting({
      only: ["read"],
      until: (level: number) => level > 99,
      interval: 100,
      timeout: 450,
      clock,
    });
    const answer = decorate(rising(), layers)
      .read()
      .catch((error: unknown) => error);
    const silent = decorate({ read: () => new Promise<number>(() => {}) }, layers)
      .read()
      .catch((error: unknown) => error);
    await clock.pass(450);
    expect(await answer).toBeInstanceOf(NeverSatisfied);
    expect(await answer).toMatchObject({
      code: "NEVER_SATISFIED",
      lastSeen: 5,
      message: expect.stringContaining("Last result: 5."),
    });
    expect(await silent).toMatchObject({ message: expect.stringContaining("No result arrived.") });
    expect(clock.waiting).toBe(0);
  });

  test("an error ends the polling", async () => {
    const broken = { read: async (): Promise<number> => Promise.reject(new RangeError("stuck")) };
    await expect(decorate(broken, waiting({ until: () => true })).read()).rejects.toThrow("stuck");
  });
});

describe("limited", () => {
  test("limits the calls in flight, serves all in order, and confuses no results", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 5 }),
        fc.array(fc.boolean(), { maxLength: 40 }),
        async (concurrency, calls) => {
          let underWay = 0;
          let most = 0;
          const order: number[] = [];
          const desk = decorate(
            {
              async serve(number: number, fails: boolean) {
                order.push(number);
                most = Math.max(most, ++underWay);
                await settled();
                underWay -= 1;
                if (fails) throw new RangeError(String(number));
                return number;
              },
            },
            limited({ only: ["serve"], concurrency }),
          );
          const answers = await Promise.allSettled(calls.map((fails, number) => desk.serve(number, fails)));
          expect(answers).toEqual(
            calls.map((fails, number) =>
              fails
                ? { status: "rejected", reason: new RangeError(String(number)) }
                : { status: "fulfilled", value: number },
            ),
          );
          expect(order).toEqual(calls.map((_, number) => number));
          expect(most).toBeLessThanOrEqual(concurrency);
        },
      ),
    );
  });

  test("a call that exceeds its timeout fails, and a call over the limit is rejected at once", async () => {
    const clock = new FakeClock();
    const desk = decorate(
      { serve: () => new Promise<number>(() => {}) },
      limited({ timeout: "2s", concurrency: 1, queue: 1, clock }),
    );
    const first = desk.serve().catch((error: unknown) => error);
    const second = desk.serve().catch((error: unknown) => error);
    await expect(desk.serve()).rejects.toMatchObject({
      code: "QUEUE_FULL",
      message: expect.stringContaining("while 1 call was waiting"),
    });
    await clock.pass(2000);
    expect(await first).toMatchObject({
      code: "TOO_LATE",
      message: expect.stringContaining("timed out after 2000 ms"),
    });
    await clock.pass(2000);
    expect(await Promise.race([second, settled().then(() => "waiting")])).toBe("waiting");
    expect(clock.waiting).toBe(0);
  });

  test.each([
    [false, 1],
    [true, 3],
  ])("releaseOnTimeout %s: of three calls that hang, %i have started", async (releaseOnTimeout, expected) => {
    const clock = new FakeClock();
    let started = 0;
    const hang = () => {
      started += 1;
      return new Promise<number>(() => {});
    };
    const desk = decorate(
      { serve: hang },
      limited({ timeout: "2s", concurrency: 1, releaseOnTimeout, clock }),
    );
    for (let call = 0; call < 3; call++) desk.serve().catch(() => {});
    for (let time = 0; time < 3; time++) await clock.pass(2000);
    expect(started).toBe(expected);
  });
});

describe("a signal", () => {
  type Gauge = { calls: number; read(): Promise<number>; label(): string };
  const reading = (read: () => Promise<number>): Gauge => ({
    calls: 0,
    read() {
      this.calls += 1;
      return read();
    },
    label: () => "gauge",
  });
  const layers = {
    retrying: (signal: AbortSignal) => retrying<"read">({ only: ["read"], signal }),
    waiting: (signal: AbortSignal) => waiting<"read">({ only: ["read"], until: () => true, signal }),
    "retrying everything": (signal: AbortSignal) => retrying({ signal }),
  };

  test.each(Object.entries(layers))("of %s ends a call that hangs, at once", async (_, layer) => {
    const controller = new AbortController();
    const gauge = reading(() => new Promise(() => {}));
    const call = decorate(gauge, layer(controller.signal)).read();
    controller.abort(new Error("no longer needed"));
    await expect(call).rejects.toThrow("no longer needed");
    expect(gauge.calls).toBe(1);
  });

  test.each(Object.entries(layers))("of %s that was aborted prevents the call", async (name, layer) => {
    const controller = new AbortController();
    const gauge = reading(async () => 4);
    const wrapper = decorate(gauge, layer(controller.signal));
    await wrapper.read();
    const { calls } = gauge;
    controller.abort(new Error("no longer needed"));
    await expect(wrapper.read(), name).rejects.toThrow("no longer needed");
    expect(gauge.calls).toBe(calls);
    expect(wrapper.label()).toBe("gauge");
  });
});

test.each([
  () => cached({ ttl: "ten minutes" as never }),
  () => cached({ size: 0 }),
  () => retrying({ attempts: 1.5 }),
  () => limited({ timeout: -1 }),
  () => waiting({ until: () => true, interval: "1w" as never }),
])("an option that cannot be is refused, with what it may be: %#", (make) => {
  expect(make).toThrow(
    expect.objectContaining({
      code: "BAD_OPTION",
      message: expect.stringMatching(/Pass (milliseconds|a whole number)/),
    }),
  );
});

test("these layers accept a predicate for members, too", async () => {
  const clock = new FakeClock();
  const only = ({ label }: { readonly label: string }) => label.startsWith("later");
  const subject = new Sums();
  const wrapper = decorate(
    subject,
    cached({ only }),
    retrying({ only, attempts: 2, delay: 0, clock }),
    limited({ only, timeout: "1s", clock }),
    waiting({ only, until: (height: number) => height > 0, clock }),
  );
  expect([await wrapper.later(1), await wrapper.later(1), subject.calls]).toEqual([4, 4, 1]);
  expect(wrapper.heightAt(1)).not.toBe(wrapper.heightAt(1));
});
