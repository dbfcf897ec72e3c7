import { Readable } from "node:stream";
import fc from "fast-check";
import { checkContract, contract, readRecording, recordingOf, stubFrom, stubOf } from "sleeve/conform";
import { hasSecretName } from "sleeve/generated";
import { describe, expect, test } from "vitest";

interface Gauge {
  readonly station: string;
  level(hour: number): number;
  later(hour: number): Promise<{ at: Date; metres: number }>;
  request(hour: number, done: (error: Error | null, metres?: number) => void): void;
  login(password: string): Promise<{ token: string; name: string }>;
}

const real = (): Gauge => ({
  station: "PE-1",
  level: (hour) => {
    if (hour > 23) throw new RangeError("no such hour");
    return hour / 2;
  },
  later: async (hour) => ({ at: new Date(Date.UTC(2026, 10, 24, hour)), metres: hour / 2 }),
  request: (hour, done) =>
    queueMicrotask(() => (hour > 23 ? done(new RangeError("no such hour")) : done(null, hour / 2))),
  login: async () => ({ token: "s3cret-token", name: "harbour master" }),
});

const requested = (gauge: Gauge, hour: number) =>
  new Promise((resolve, reject) =>
    gauge.request(hour, (error, metres) => (error ? reject(error) : resolve(metres))),
  );

async function recorded(gauge = real()): Promise<string> {
  const recording = recordingOf("the gauge");
  const taped = recording.of(gauge);
  taped.station;
  taped.level(4);
  expect(() => taped.level(30)).toThrow("no such hour");
  await taped.later(4);
  await requested(taped, 6);
  await expect(requested(taped, 30)).rejects.toThrow("no such hour");
  await taped.login("open sesame");
  return recording.toText();
}

describe("a stub from a recording", () => {
  test("answers as recorded: values, promises, callbacks and errors", async () => {
    const gauge = stubFrom<Gauge>(await recorded());
    expect(gauge.station).toBe("PE-1");
    expect(gauge.level(4)).toBe(2);
    expect(() => gauge.level(30)).toThrow("no such hour");
    expect(await gauge.later(4)).toEqual({ at: new Date("2026-11-24T04:00:00.000Z"), metres: 2 });
    expect(await requested(gauge, 6)).toBe(3);
    await expect(requested(gauge, 30)).rejects.toThrow("no such hour");
    expect(await gauge.login("open sesame")).toEqual({ token: "[redacted]", name: "harbour master" });
  });

  test("names a call that is not in the recording", async () => {
    const gauge = stubFrom<Gauge>(await recorded());
    expect(() => gauge.level(5)).toThrow(expect.objectContaining({ code: "NOT_RECORDED" }));
  });

  test("restores every kind of value that can be serialized", () => {
    fc.assert(
      fc.property(
        fc.anything({
          // A field named like a secret is redacted.
          key: fc.string().filter((key) => !hasSecretName(key)),
          withDate: true,
          withMap: true,
          withSet: true,
          withBigInt: true,
          withTypedArray: false,
        }),
        (value) => {
          const recording = recordingOf("anything");
          recording.of({ give: () => value }).give();
          expect(stubFrom<{ give(): unknown }>(recording.toText()).give()).toEqual(value);
        },
      ),
    );
  });
});

test("a recording contains no secret, by name, path or value", async () => {
  const recording = recordingOf("the gauge", { paths: ["skipper.phone"], values: [/\b\d{4}-\d{4}\b/] });
  const desk = recording.of({
    login: async (credentials: { password: string }) => ({ token: credentials.password }),
    skipper: () => ({ skipper: { name: "Ada Brook", phone: "0123" }, card: "card 1234-5678" }),
  });
  await desk.login({ password: "open sesame" });
  desk.skipper();
  const text = recording.toText();
  for (const secret of ["open sesame", "0123", "1234-5678"]) expect(text).not.toContain(secret);
  expect(text).toContain("Ada Brook");
});

describe("a generator", () => {
  interface Log {
    entries(count: number): Iterator<number> & Iterable<number>;
    later(count: number): AsyncIterator<number> & AsyncIterable<number>;
    open(count: number): Promise<Iterator<number> & Iterable<number>>;
  }
  function* entriesOf(count: number): Generator<number, string> {
    for (let at = 0; at < count; at += 1) {
      if (at === 5) throw new RangeError("too many");
      yield at;
    }
    return "end";
  }
  const log: Log = {
    entries: entriesOf,
    async *later(count) {
      yield* entriesOf(count);
    },
    open: async (count) => entriesOf(count),
  };

  /** Reads at most a number of items, and returns what came. */
  async function read(
    iterator: Iterator<unknown> | AsyncIterator<unknown>,
    most: number,
    isStopped: boolean,
  ): Promise<readonly unknown[]> {
    const came: unknown[] = [];
    try {
      for (let at = 0; at < most; at += 1) {
        const { done, value } = await iterator.next();
        came.push(done ? { returned: value as unknown } : value);
        if (done) return came;
      }
      if (isStopped) came.push(await iterator.return?.());
    } catch (error) {
      came.push(String(error));
    }
    return came;
  }

  test("is recorded as far as it is read, and played in the same way", async () => {
    const ways: readonly ((of: Log, count: number) => unknown)[] = [
      (of, count) => of.entries(count),
      (of, count) => of.later(count),
      (of, count) => of.open(count),
    ];
    await fc.assert(
      fc.asyncProperty(
        fc.nat(2),
        fc.nat(7),
        fc.integer({ min: 1, max: 9 }),
        fc.boolean(),
        async (way, count, most, isStopped) => {
          const iterate = async (of: Log) => (await ways[way]?.(of, count)) as Iterator<unknown>;
          const recording = recordingOf("the log");
          const seen = await read(await iterate(recording.of(log)), most, isStopped);
          expect(seen).toEqual(await read(await iterate(log), most, isStopped));
          const played = stubFrom<Log>(recording.toText());
          expect(await read(await iterate(played), most, isStopped)).toEqual(seen);
        },
      ),
      { numRuns: 200 },
    );
  });

  test("that is read further than it was recorded fails", () => {
    const recording = recordingOf("the log");
    recording.of(log).entries(4).next();
    const played = stubFrom<Log>(recording.toText()).entries(4);
    expect(played.next()).toEqual({ done: false, value: 0 });
    expect(() => played.next()).toThrow(expect.objectContaining({ code: "NOT_RECORDED" }));
  });

  test("is repeated under a contract", async () => {
    const recording = recordingOf("the log");
    const taped = recording.of(log);
    for (const entry of taped.entries(4)) if (entry === 2) break;
    for await (const _entry of taped.later(3));
    const target = contract<Log>("Log");
    const { implementations } = await checkContract(target, {
      same: stubOf({ recording: recording.toText(), subject: () => log }),
      other: stubOf({
        recording: recording.toText(),
        subject: () => ({ ...log, entries: (count: number) => entriesOf(count - 2) }),
      }),
    });
    const found = implementations.map(({ checks }) =>
      checks.flatMap(({ findings }) => findings.map(({ name, place }) => `${name} ${place}`)),
    );
    expect(found).toEqual([[], ["outdated entries"]]);
  });
});

test("what is read only once, and is no generator, is not recorded, and its use fails", async () => {
  const recording = recordingOf("the log");
  const stream = Readable.from(["a"]);
  expect(recording.of({ open: () => ({ stream }) }).open().stream).toBe(stream);
  const { stream: played } = stubFrom<{ open(): { stream: Readable } }>(recording.toText()).open();
  expect(() => played.read()).toThrow(expect.objectContaining({ code: "NOT_RECORDED" }));
});

test("a parameter named like a secret is redacted, and any value of it is found again", () => {
  const recording = recordingOf("the desk");
  const desk = { login: (user: string, password: string) => `${user} ${password.length}` };
  expect(recording.of(desk).login("Ada Brook", "open sesame")).toBe("Ada Brook 11");
  const text = recording.toText();
  expect(text).not.toContain("open sesame");
  const played = stubFrom<typeof desk>(text);
  expect(played.login("Ada Brook", "another")).toBe("Ada Brook 11");
  expect(() => played.login("Tom Hale", "open sesame")).toThrow(
    expect.objectContaining({ code: "NOT_RECORDED" }),
  );
});

describe("a stub under a contract", () => {
  const gauge = contract<Gauge>("Gauge", {
    examples: { "has two metres at four": ({ level }) => level(4) === 2 },
  });

  test("conforms while its subject answers as recorded", async () => {
    const report = await checkContract(
      gauge,
      { recorded: stubOf({ recording: await recorded(), subject: real }) },
      { timeout: 200 },
    );
    expect(report.implementations[0]?.checks.flatMap(({ findings }) => findings)).toEqual([]);
    expect(report.implementations[0]?.checks.flatMap(({ notes }) => notes)).toEqual([]);
  });

  test("does not conform when its subject answers differently", async () => {
    const changed = () => ({ ...real(), later: async (hour: number) => ({ at: new Date(0), metres: hour }) });
    const report = await checkContract(
      gauge,
      { recorded: stubOf<Gauge>({ recording: await recorded(), subject: changed }) },
      { timeout: 200 },
    );
    expect(report.implementations[0]?.checks.flatMap(({ findings }) => findings)).toEqual([
      expect.objectContaining({ name: "outdated", place: "later" }),
    ]);
  });
});

test.each([
  ["{", "not JSON"],
  ["{}", "no `calls`"],
  ['{"format":"sleeve-recording","version":2,"calls":[]}', "version is 2"],
  ['{"format":"sleeve-recording","version":1,"calls":[{"member":"level"}]}', "Call 1 lacks"],
])("what is no recording is refused: %s", (text, reason) => {
  expect(() => readRecording(text)).toThrow(
    expect.objectContaining({ code: "BAD_RECORDING", message: expect.stringContaining(reason) }),
  );
});
