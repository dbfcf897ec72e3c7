import { readFileSync } from "node:fs";
import { join } from "node:path";
import {
  access,
  cached,
  decorate,
  explain,
  guard,
  type Layer,
  limited,
  logging,
  retrying,
  timing,
  waiting,
} from "sleeve";
import { describe, expect, test } from "vitest";

/** What the parts of a stack saw of the calls of one client. */
interface Seen {
  readonly calls: Record<string, number>;
  /** The subject's calls. */
  subject: number;
}

interface Gauge {
  read(station: string): Promise<number>;
}

const NAMES = ["logging", "timing", "access", "guard", "cached", "waiting", "retrying", "limited"] as const;
type Name = (typeof NAMES)[number];
const DELAY = 1;

/** Creates the layers of one stack. Each counts the calls that it sees. */
function layersOf(seen: Seen): Readonly<Record<Name, Layer<Gauge>>> {
  const count = (name: Name) => {
    seen.calls[name] = (seen.calls[name] ?? 0) + 1;
  };
  const isAllowed = (station: unknown) => station !== "forbidden";
  return {
    logging: logging({
      logger: { info: (entry) => entry.event === "called" && count("logging"), error: () => {} },
    }),
    timing: timing({ onSample: () => count("timing") }),
    access: access(({ args, use }) => use !== "call" || (count("access"), isAllowed(args[0]))),
    guard: guard<Gauge>({ read: [(station) => (count("guard"), isAllowed(station))] }),
    cached: cached({ key: ([station]) => (count("cached"), String(station)) }),
    waiting: waiting<Gauge>({
      only: ["read"],
      until: (level: number) => level >= 0,
      interval: DELAY,
      timeout: 20,
    }),
    retrying: retrying<Gauge>({ only: ["read"], attempts: 3, delay: DELAY, jitter: 0 }),
    limited: limited<Gauge>({ only: ["read"], timeout: 1000, concurrency: 1 }),
  };
}

/** Makes calls whose results repeat, that are refused, that fail once, and whose first result is not what is waited for. */
async function run(names: readonly Name[]): Promise<Seen> {
  const seen: Seen = { calls: {}, subject: 0 };
  const requests: Record<string, number> = {};
  const gauge: Gauge = {
    async read(station) {
      seen.subject += 1;
      requests[station] = (requests[station] ?? 0) + 1;
      if (station === "late" && requests[station] === 1) throw new Error("no answer");
      if (station === "slow" && requests[station] === 1) return -1;
      return 3;
    },
  };
  const layers = layersOf(seen);
  const wrapper = decorate(gauge, ...names.map((name) => layers[name]));
  for (const station of ["Ellery", "Ellery", "forbidden", "late", "slow"])
    await wrapper.read(station).catch(() => {});
  return seen;
}

const CALLS = 5;
const isWatcher = (name: Name) => name === "logging" || name === "timing";
const isRepeating = (name: Name) => name === "waiting" || name === "retrying";

/** The effect that an order of two layers has on the calls of the client, as their counts show it. */
function effectOf(outer: Name, inner: Name, { calls }: Seen): string | undefined {
  const seen = calls[inner] ?? CALLS;
  if (isWatcher(inner) || inner === "access" || inner === "guard") {
    if (seen < CALLS && (outer === "cached" || isWatcher(inner))) return "hides";
    if (seen > CALLS) return "repeats";
  }
  // A cache that answers a wait for another result answers the same again, so it is queried more often.
  if (outer === "waiting" && inner === "cached" && seen > CALLS + 1) return "repeats";
  return undefined;
}

process.removeAllListeners("warning");

function conflictsOf(names: readonly Name[]) {
  const layers = layersOf({ calls: {}, subject: 0 });
  const gauge: Gauge = { read: async () => 3 };
  return explain(decorate(gauge, ...names.map((name) => layers[name]))).conflicts;
}

const pairs = NAMES.flatMap((outer) =>
  NAMES.filter((inner) => inner !== outer).map((inner) => [outer, inner] as const),
);

describe("the order of two layers", () => {
  test.each(pairs)("%s outside %s has the effect that is reported", async (outer, inner) => {
    const [conflict, ...others] = conflictsOf([outer, inner]);
    expect(others).toEqual([]);
    if (outer === "limited" || (isRepeating(outer) && isRepeating(inner))) return;
    const effect = effectOf(outer, inner, await run([outer, inner]));
    expect(conflict?.effect).toBe(effect);
  });

  test("is reported for a limit of all attempts, and for attempts within attempts", async () => {
    const effects = (["waiting", "retrying"] as const).map(
      (inner) => conflictsOf(["limited", inner])[0]?.effect,
    );
    expect(effects).toEqual(["limits", "limits"]);
    // A place is held while the inner layer waits between attempts: the second call starts after both attempts of the first.
    for (const [names, expected] of [
      [
        ["limited", "retrying"],
        ["late", "late", "Ellery"],
      ],
      [
        ["retrying", "limited"],
        ["late", "Ellery", "late"],
      ],
    ] as const) {
      const order: string[] = [];
      const gauge: Gauge = {
        async read(station) {
          order.push(station);
          if (station === "late" && order.filter((name) => name === station).length === 1)
            throw new Error("no answer");
          return 3;
        },
      };
      const layers = layersOf({ calls: {}, subject: 0 });
      const wrapper = decorate(gauge, ...names.map((name) => layers[name]));
      await Promise.all([wrapper.read("late"), wrapper.read("Ellery")]);
      expect(order).toEqual(expected);
    }
    expect(conflictsOf(["retrying", "waiting"])[0]?.effect).toBe("repeats");
    expect(conflictsOf(["waiting", "retrying"])).toEqual([]);
    const never = { attempts: 0 };
    const gauge: Gauge = { read: async () => ((never.attempts += 1), -1) };
    const layers = layersOf({ calls: {}, subject: 0 });
    await decorate(gauge, layers.retrying, layers.waiting)
      .read("Ellery")
      .catch(() => {});
    const whole = never.attempts;
    never.attempts = 0;
    await decorate(gauge, layers.waiting, layers.retrying)
      .read("Ellery")
      .catch(() => {});
    expect(whole).toBeGreaterThan(never.attempts);
  });

  test("of three layers has the effects of its pairs", () => {
    let count = 0;
    for (const [outer, inner] of pairs)
      for (const third of NAMES.filter((name) => name !== outer && name !== inner)) {
        const names = [outer, inner, third];
        const ofPairs = [
          [outer, inner],
          [outer, third],
          [inner, third],
        ] as const;
        expect(conflictsOf(names).map(({ text }) => text)).toEqual(
          ofPairs.flatMap((pair) => conflictsOf(pair).map(({ text }) => text)),
        );
        count += 1;
      }
    expect(count).toBe(336);
  });

  test("that is recommended has no conflict, and is recommended for every other order of the same layers", () => {
    const recommended = NAMES.filter((name) => name !== "timing");
    expect(conflictsOf(recommended)).toEqual([]);
    for (let turn = 1; turn < recommended.length; turn++) {
      const names = [...recommended.slice(turn), ...recommended.slice(0, turn)];
      for (const { better } of conflictsOf(names)) expect(better).toEqual(recommended);
    }
  });

  test("is listed in the documentation", () => {
    const docs = readFileSync(join(import.meta.dirname, "../../../../docs/layers.md"), "utf8");
    const lines = pairs.flatMap(([outer, inner]) => {
      const [conflict] = conflictsOf([outer, inner]);
      return conflict
        ? [`| \`${outer}\` | \`${inner}\` | ${conflict.effect} | ${conflict.text.replaceAll('"', "`")} |`]
        : [];
    });
    expect(docs.split("\n").filter((line) => / \| (hides|repeats|limits) \| /.test(line))).toEqual(lines);
  });
});
