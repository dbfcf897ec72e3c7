import { mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { inspect } from "node:util";
import { context, propagation } from "@opentelemetry/api";
import { AsyncLocalStorageContextManager } from "@opentelemetry/context-async-hooks";
import { W3CTraceContextPropagator } from "@opentelemetry/core";
import {
  AggregationTemporality,
  InMemoryMetricExporter,
  MeterProvider,
  PeriodicExportingMetricReader,
} from "@opentelemetry/sdk-metrics";
import {
  BasicTracerProvider,
  InMemorySpanExporter,
  SimpleSpanProcessor,
} from "@opentelemetry/sdk-trace-base";
import fc from "fast-check";
import { pino } from "pino";
import {
  access, between, decorate, decorated, guard, type LogEntry, layer, logging, type Recorded, recorded, type Sample, stack, stub, tally, timing, userTiming,
} from "sleeve"; // biome-ignore format: a list
import { continuingTrace, traced, tracingRequests } from "sleeve/traced";
import { describe, expect, test } from "vitest";
import { z } from "zod";

describe("logging", () => {
  const into = (entries: LogEntry[], level?: string[]) => {
    const keep = (entry: LogEntry) => void entries.push(entry);
    return {
      info: keep,
      error: keep,
      debug: keep,
      ...(level && { isLevelEnabled: (name: string) => level.includes(name) }),
    };
  };

  test("calls within a logged call carry its number, across awaits, for any interleaving", async () => {
    const entries: LogEntry[] = [];
    const log = logging({ logger: into(entries) });
    const ledger = decorate({ book: async (berth: number) => (await null, berth) }, log);
    const office = decorate(
      {
        admit: async (berth: number) => {
          await null;
          return ledger.book(berth);
        },
      },
      log,
    );
    await Promise.all([office.admit(1), office.admit(2), ledger.book(3)]);
    const called = entries.flatMap((entry) => (entry.event === "called" ? [entry] : []));
    for (const { member, args, within } of called.filter((item) => item.member === "book")) {
      const outer = called.find((item) => item.member === "admit" && item.args[0] === args[0]);
      expect([member, within === outer?.call]).toEqual(["book", args[0] !== 3]);
    }
  });

  test("writes through pino, and formats nothing for a level that is off", () => {
    const lines: string[] = [];
    let read = 0;
    const secretive = {
      get name() {
        read += 1;
        return "Tern";
      },
      apiToken: "xyzzy",
    };
    const write = (level: string) => {
      const log = pino({ level }, { write: (line: string) => void lines.push(line) });
      const office = decorate(
        {
          admit: (_: object) => true,
          fail: () => {
            throw new RangeError("full");
          },
        },
        logging({ logger: log, level: "debug" }),
      );
      office.admit(secretive);
      expect(() => office.fail()).toThrow("full");
    };
    write("info");
    expect([read, lines.map((line) => JSON.parse(line).msg)]).toEqual([0, ["fail threw"]]);
    write("debug");
    expect(lines.slice(1).map((line) => JSON.parse(line).msg)).toEqual([
      "admit called",
      "admit returned",
      "fail called",
      "fail threw",
    ]);
    expect(lines.join()).not.toContain("xyzzy");
    expect(JSON.parse(lines[1] as string)).toMatchObject({
      args: [{ name: "Tern", apiToken: "[redacted]" }],
    });
  });

  test("redacts secrets by member, path and value, truncates long values, and changes no argument", () => {
    const entries: LogEntry[] = [];
    const given = {
      skipper: { phone: "555 0199", name: "Ada Quill" },
      note: "call 555 0199",
      tides: Array.from({ length: 30 }, (_, value) => value),
    };
    let passed: unknown;
    const office = decorate(
      {
        admit: (vessel: typeof given) => {
          passed = vessel;
          return vessel;
        },
        pin: (code: number) => code,
      },
      logging({
        logger: into(entries),
        length: 10,
        redact: { members: ["pin"], paths: ["skipper.phone"], values: [/\d{3} \d{4}/g] },
      }),
    );
    expect(office.admit(given)).toBe(given);
    expect(passed).toBe(given);
    office.pin(4711);
    expect(JSON.stringify(entries)).not.toMatch(/555 0199|4711/);
    expect(entries[0]).toMatchObject({
      args: [
        {
          skipper: { phone: "[redacted]", name: "Ada Quill" },
          note: "[redacted]",
          tides: [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, "… (30 items)"],
        },
      ],
    });
  });

  test("redacts secrets in class instances, maps, errors and nested values, within bounds", () => {
    class Login {
      readonly name = "Ada Quill";
      readonly password = "xyzzy";
      readonly nested = {
        apiToken: "xyzzy",
        list: [new Map([["secret", "xyzzy"]]), new Set(["plugh xyzzy"])],
      };
    }
    class Refused extends Error {
      readonly login = new Login();
    }
    const entries: LogEntry[] = [];
    const endless: Record<string, unknown> = { password: "xyzzy" };
    for (let value = 0; value < 100; value++) endless[`self${value}`] = endless;
    const thrown = new Refused("xyzzy was refused");
    const plain = new RangeError("full");
    const office = decorate(
      {
        admit: (_: unknown) => true,
        refuse: (error: Error) => {
          throw error;
        },
      },
      logging({ logger: into(entries), redact: { values: [/xyzzy/] } }),
    );
    office.admit(new Login());
    office.admit(endless);
    expect(() => office.refuse(thrown)).toThrow(thrown);
    expect(() => office.refuse(plain)).toThrow(plain);
    const [refused, full] = entries.flatMap((entry) => ("error" in entry ? [entry.error] : []));
    expect(JSON.stringify(entries)).not.toContain("xyzzy");
    expect(inspect(refused, { depth: 9 })).not.toContain("xyzzy");
    expect([refused instanceof Refused, full instanceof RangeError, full]).toMatchObject([
      true,
      true,
      { message: "full", stack: plain.stack },
    ]);
    expect(entries[0]).toMatchObject({ args: [{ name: "Ada Quill", password: "[redacted]" }] });
    expect(JSON.stringify(entries).length).toBeLessThan(100_000);
  });
});

describe("timing", () => {
  test("a tally counts a call whose duration is not a number, and keeps its sum", () => {
    const { record, members } = tally();
    for (const milliseconds of [2, Number.NaN, 4])
      record({ member: "read", status: "returned", start: 0, milliseconds });
    expect(members().get("read")).toMatchObject({ calls: 3, sum: 6, max: 4 });
    expect(members().get("read")?.quantile(1)).toBeCloseTo(4, 0);
  });

  test("logging reports the end of an asynchronous generator behind an access check", async () => {
    const entries: LogEntry[] = [];
    const keep = (entry: LogEntry) => entries.push(entry);
    const gauge = {
      async *levels() {
        yield 3;
        return 4;
      },
    };
    const layers = [logging({ logger: { info: keep, error: keep } }), access(() => true)];
    const steps = decorate(gauge, ...layers).levels();
    expect((await steps.next()).value).toBe(3);
    expect(entries.map(({ event }) => event)).toEqual(["called"]);
    await steps.next();
    await steps.next();
    expect(entries[1]).toMatchObject({ event: "resolved", value: 4 });
  });

  test("a tally counts, sums and estimates quantiles, within 2 %", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.001, max: 1e6, noNaN: true }), { minLength: 1 }),
        fc.double({ min: 0.01, max: 1, noNaN: true }),
        (times, share) => {
          const { record, members } = tally();
          for (const milliseconds of times)
            record({ member: "haul", status: "returned", start: 0, milliseconds });
          const haul = members().get("haul");
          const exact = [...times].sort((one, other) => one - other)[
            Math.max(0, Math.ceil(share * times.length) - 1)
          ] as number;
          expect([haul?.calls, haul?.failures, haul?.sum]).toEqual([
            times.length,
            0,
            times.reduce((sum, time) => sum + time, 0),
          ]);
          expect(Math.abs((haul?.quantile(share) ?? 0) / exact - 1)).toBeLessThan(0.0201);
        },
      ),
    );
  });

  test("measures generators until they end, and writes User Timing entries", async () => {
    let time = 0;
    const samples: Sample[] = [];
    const tides = decorate(
      {
        *each() {
          time += 5;
          yield 1;
          time += 5;
        },
        async *later() {
          time += 3;
          yield 1;
        },
        fail: () => {
          throw new Error("x");
        },
      },
      timing({
        onSample: (sample) => {
          samples.push(sample);
          userTiming(sample);
        },
        clock: { now: () => time },
      }),
    );
    expect([...tides.each()]).toEqual([1]);
    for await (const _ of tides.later());
    expect(() => tides.fail()).toThrow("x");
    expect(samples.map(({ member, status, milliseconds }) => [member, status, milliseconds])).toEqual([
      ["each", "returned", 10],
      ["later", "resolved", 3],
      ["fail", "threw", 0], // biome-ignore format: rows
    ]);
    expect(performance.getEntriesByName("each")).toMatchObject([{ entryType: "measure", duration: 10 }]);
    performance.clearMeasures();
  });
});

describe("guard", () => {
  interface Ledger {
    rows: number;
    book(berth: number, vessel: string): string;
    find(vessel: string): Promise<number>;
  }
  const ledger = (): Ledger => ({
    rows: 1,
    book: (berth, vessel) => `${vessel} at ${berth}`,
    find: async (vessel) => vessel.length,
  });
  const guarded = (subject: Ledger) =>
    decorate(
      subject,
      guard<Ledger>(
        {
          rows: between(0, 99),
          book: [between(1, 24), z.string().min(2)],
          find: { vessel: z.string().refine(async (name) => name !== "ghost") },
        },
        { results: { find: between(1, 6), rows: Number.isInteger } },
      ),
    );

  test("passes exactly the allowed calls, and makes no other", () => {
    fc.assert(
      fc.property(fc.integer({ min: -5, max: 40 }), fc.string({ maxLength: 4 }), (berth, vessel) => {
        let calls = 0;
        const subject = ledger();
        const wrapper = guarded({ ...subject, book: (...args) => (calls++, subject.book(...args)) });
        const isAllowed = berth >= 1 && berth <= 24 && vessel.length >= 2;
        if (isAllowed) expect(wrapper.book(berth, vessel)).toBe(`${vessel} at ${berth}`);
        else
          expect(() => wrapper.book(berth, vessel)).toThrow(expect.objectContaining({ code: "NOT_ALLOWED" }));
        expect(calls).toBe(isAllowed ? 1 : 0);
      }),
    );
  });

  test("reports the member, the parameter, the allowed range and the value", async () => {
    const wrapper = guarded(ledger());
    const message = (run: () => unknown) => {
      try {
        return run();
      } catch (error) {
        return (error as Error).message;
      }
    };
    expect([
      message(() => wrapper.book(25, "Tern")),
      message(() => wrapper.book("4" as never, "Tern")),
      message(() => {
        wrapper.rows = 120;
      }),
    ]).toEqual([
      "book: berth is 25, which is not between 1 and 24.",
      'book: berth is "4", which is not between 1 and 24.',
      "rows: the new value is 120, which is not between 0 and 99.",
    ]);
    expect(message(() => wrapper.book(4, "x"))).toMatch(/^book: vessel is "x", which is not allowed: .*2/);
    await expect(wrapper.find("ghost")).rejects.toThrow("find: vessel");
    await expect(wrapper.find("Marigold")).rejects.toThrow(
      "find: the result is 8, which is not between 1 and 6.",
    );
    expect(await wrapper.find("Tern")).toBe(4);
    const broken = guarded({ ...ledger(), rows: 1.5 });
    expect(() => broken.rows).toThrow("rows: the result is 1.5, which is not what isInteger allows.");
  });
});

describe("recorded", () => {
  test("a stub returns the recorded results, and names a call that was not recorded", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.constantFrom("add", "later", "fail"), fc.integer()), { minLength: 1 }),
        async (calls) => {
          const recording: Recorded[] = [];
          let sum = 0;
          const subject = {
            unit: "m",
            add: (value: number) => (sum += value),
            later: async (value: number) => (sum += value),
            fail: (value: number): number => {
              throw new RangeError(String(value));
            },
          };
          const use = async (it: typeof subject) => {
            const seen: unknown[] = [it.unit];
            for (const [member, value] of calls) {
              try {
                seen.push(await it[member as "add"](value));
              } catch (error) {
                seen.push(error);
              }
            }
            return seen;
          };
          const first = await use(
            decorate(subject, recorded({ onRecord: (recorded) => recording.push(recorded) })),
          );
          expect(await use(stub<typeof subject>(recording))).toEqual(first);
        },
      ),
    );
    const recording: Recorded[] = [];
    decorate(
      { level: (station: string) => station.length },
      recorded({ onRecord: (recorded) => recording.push(recorded) }),
    ).level("Ellery");
    const gauge = stub<{ level(station: string): number; close(): void }>(
      JSON.parse(JSON.stringify(recording)),
    );
    expect(gauge.level("Ellery")).toBe(6);
    expect(() => gauge.level("Holm")).toThrow(
      'level("Holm") is not in the recording. Recorded: level("Ellery").',
    );
    expect(() => gauge.close()).toThrow(
      expect.objectContaining({
        code: "NOT_RECORDED",
        message: expect.stringContaining("close is not in the recording"),
      }),
    );
    expect(await Promise.resolve(gauge)).toBe(gauge);
  });
});

describe("traced", () => {
  const spans = new InMemorySpanExporter();
  const tracers = new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(spans)] });
  context.setGlobalContextManager(new AsyncLocalStorageContextManager().enable());
  propagation.setGlobalPropagator(new W3CTraceContextPropagator());

  test("calls within calls are spans within spans, across awaits, with errors recorded", async () => {
    spans.reset();
    const ledger = decorate(
      {
        book: async (berth: number) => {
          await null;
          if (berth > 9) throw new RangeError("taken");
          return berth;
        },
      },
      traced({ name: "Ledger", tracers }),
    );
    const office = decorate(
      {
        admit: async (berth: number) => {
          await null;
          return ledger.book(berth);
        },
      },
      traced({ name: "Office", tracers }),
    );
    await Promise.all([office.admit(1), office.admit(10).catch(() => {})]);
    const found = spans.getFinishedSpans();
    expect(found.map(({ name }) => name).sort()).toEqual([
      "Ledger.book",
      "Ledger.book",
      "Office.admit",
      "Office.admit",
    ]);
    for (const inner of found.filter(({ name }) => name === "Ledger.book")) {
      const outer = found.find((match) => match.spanContext().spanId === inner.parentSpanContext?.spanId);
      expect([outer?.name, outer?.status.code]).toEqual(["Office.admit", inner.status.code]);
    }
    expect(found.filter(({ attributes }) => attributes["error.type"] === "RangeError")).toHaveLength(2);
  });

  test("durations are counted by member", async () => {
    const exporter = new InMemoryMetricExporter(AggregationTemporality.CUMULATIVE);
    const reader = new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 60_000 });
    const meters = new MeterProvider({ readers: [reader] });
    const tides = decorate({ heightAt: (hour: number) => hour }, traced({ tracers, meters }));
    for (let hour = 0; hour < 5; hour++) tides.heightAt(hour);
    await meters.forceFlush();
    const [metric] = exporter.getMetrics()[0]?.scopeMetrics[0]?.metrics ?? [];
    expect(metric?.descriptor).toMatchObject({ name: "code.function.duration", unit: "s" });
    expect(metric?.dataPoints).toMatchObject([
      { attributes: { "code.function.name": "heightAt" }, value: { count: 5 } },
    ]);
    await meters.shutdown();
  });

  test("a trace goes on over HTTP, by the headers of W3C Trace Context", async () => {
    spans.reset();
    let traceparent: string | undefined;
    const answer = decorate(
      (height: number) => String(height),
      traced({ name: "gauge", kind: "server", tracers }),
    );
    const server = createServer((request, response) => {
      traceparent = request.headers["traceparent"] as string;
      continuingTrace(request.headers, () => response.end(answer(4)));
    });
    await new Promise<void>((listening) => server.listen(0, "127.0.0.1", listening));
    const request = decorate(fetch, traced({ name: "client", kind: "client", tracers }), tracingRequests());
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    expect(await (await request(url, { headers: { "x-berth": "4" } })).text()).toBe("4");
    server.close();
    const [inner, outer] = spans.getFinishedSpans();
    expect(inner?.spanContext().traceId).toBe(outer?.spanContext().traceId);
    expect(traceparent).toBe(`00-${outer?.spanContext().traceId}-${outer?.spanContext().spanId}-01`);
    expect(inner?.parentSpanContext?.spanId).toBe(outer?.spanContext().spanId);
  });
});

describe("functions", () => {
  test("one stack applies to many functions, which keep their names, lengths, properties and this", () => {
    const met: string[] = [];
    const watched = stack(
      layer("met", {
        call:
          (next, { label }) =>
          (call) => {
            met.push(label);
            return next(call);
          },
      }),
    );
    const add = decorate((left: number, right: number) => left + right, watched);
    const named = decorate(
      Object.assign(
        function level(this: { at: number }) {
          return this.at;
        },
        { unit: "m" },
      ),
      watched,
    );
    expect([add(1, 2), named.call({ at: 4 }), named.unit, named.name, add.length]).toEqual([
      3,
      4,
      "m",
      "level",
      2,
    ]);
    expect(met).toEqual(["an anonymous function", "level"]);
  });
});

describe("as a standard decorator", () => {
  test("on a field it throws an error that names the allowed places", () => {
    expect(() => decorated()(() => {}, { kind: "field", name: "load" })).toThrow(
      "cannot be applied to the field load. Apply it to a method",
    );
  });
});

test("a stub's recording survives a file", () => {
  const folder = mkdtempSync(join(tmpdir(), "sleeve-"));
  const recording: Recorded[] = [];
  decorate(
    { at: (day: Date) => day.getTime() },
    recorded({ onRecord: (recorded) => recording.push(recorded) }),
  ).at(new Date(5));
  rmSync(folder, { recursive: true });
  expect(stub<{ at(day: Date): number }>(structuredClone(recording)).at(new Date(5))).toBe(5);
});
