import fc from "fast-check";
import { type Bridge, bridge, decorate, logging, type Surface } from "sleeve";
import { describe, expect, test } from "vitest";

interface Channel {
  readonly name: string;
  send(text: string): Promise<string>;
}

class Desk implements Channel {
  readonly open = new Set<() => void>();
  isReleased = false;
  readonly name: string;
  constructor(name: string) {
    this.name = name;
  }
  async send(text: string): Promise<string> {
    if (this.isReleased) throw new Error(`${this.name} is closed`);
    await new Promise<void>((done) => this.open.add(done));
    if (this.isReleased) throw new Error(`${this.name} was closed in mid-call`);
    return `${this.name}: ${text}`;
  }
  finish(): void {
    for (const done of this.open) done();
    this.open.clear();
  }
}

const surface: Surface<Channel> = { name: "property", send: "method" };

test("calls in flight finish where they began, later ones reach the new implementation", async () => {
  const [vhf, lights] = [new Desk("vhf"), new Desk("lights")];
  const channel = bridge<Channel>({ vhf, lights }, { start: "vhf" });
  const early = channel.port.send("a");
  const idle = channel.use("lights");
  const late = channel.port.send("b");
  expect([channel.current, channel.port.name]).toEqual(["lights", "lights"]);
  let isIdle = false;
  void idle.then(() => {
    isIdle = true;
  });
  lights.finish();
  expect(await late).toBe("lights: b");
  expect(isIdle).toBe(false);
  vhf.finish();
  await idle;
  expect(await early).toBe("vhf: a");
});

test("the port has exactly the members that all implementations have", () => {
  const channel = bridge<Channel>(
    { vhf: new Desk("vhf"), post: { name: "post", send: async () => "" } },
    { start: "vhf" },
  );
  expect(Object.keys(channel.port).sort()).toEqual(["name", "send"]);
  expect("finish" in channel.port).toBe(false);
});

test("a refined abstraction follows the implementation, and accepts layers", async () => {
  const entries: string[] = [];
  const keep = (_: unknown, message: string) => void entries.push(message);
  const say = (name: string): Channel => ({ name, send: async (text) => `${name}: ${text}` });
  const channel = bridge<Channel>({ vhf: say("vhf"), post: say("post") }, { start: "vhf" });
  const notices = decorate(
    channel.refine((port) => ({
      shiftBerth: async (from: number, to: number) => [
        await port.send(`leave ${from}`),
        await port.send(`take ${to}`),
        port.name,
      ],
    })),
    logging({ logger: { info: keep, error: keep } }),
  );
  expect(await notices.shiftBerth(4, 7)).toEqual(["vhf: leave 4", "vhf: take 7", "vhf"]);
  await channel.use("post");
  expect(await notices.shiftBerth(4, 7)).toEqual(["post: leave 4", "post: take 7", "post"]);
  expect(await notices.send("x")).toBe("post: x");
  expect(entries.filter((entry) => entry === "shiftBerth called")).toHaveLength(2);
});

test("a refined abstraction is returned where the implementation returns itself", () => {
  const flag = {
    hoisted: 0,
    hoist() {
      this.hoisted += 1;
      return this;
    },
  };
  for (const implementation of [flag, () => flag]) {
    const signals = bridge<typeof flag>({ mast: implementation }, { start: "mast" }).refine((port) => ({
      thrice: () => port.hoist().hoist().hoist(),
    }));
    expect(signals.hoist()).toBe(signals);
    const { hoist } = signals;
    hoist();
    (signals.hoist() as typeof signals).thrice();
  }
  expect(flag.hoisted).toBe(12);
});

test("a lazy implementation is created once, and again after its release", async () => {
  let made = 0;
  const released: string[] = [];
  const channel = bridge<Channel>(
    {
      vhf: () => (made++, { name: "vhf", send: async () => "" }),
      post: async () => ({ name: "post", send: async () => "" }),
    },
    { start: "vhf", surface, release: ({ name }) => released.push(name) },
  );
  expect(made).toBe(0);
  await channel.port.send("x");
  await channel.use("vhf");
  await channel.use("post");
  await channel.use("vhf");
  expect([made, released]).toEqual([2, ["vhf", "post"]]);
  await channel.close();
  expect(released).toEqual(["vhf", "post", "vhf"]);
  // `send` has returned promises, so it rejects.
  await expect(channel.port.send("x")).rejects.toMatchObject({ code: "RELEASED" });
});

describe("a bridge that cannot switch keeps its implementation, and reports why", () => {
  const broken = async (): Promise<Channel> => {
    throw new RangeError("no post today");
  };
  const make = (): Bridge<Channel> =>
    bridge<Channel>(
      { vhf: new Desk("vhf"), lights: new Desk("lights"), broken },
      { start: "vhf", release: () => {} },
    );

  test("to an unknown name", async () => {
    const channel = make();
    await expect(channel.use("drum")).rejects.toMatchObject({
      code: "NO_SUCH_IMPLEMENTATION",
      message: expect.stringContaining("Use one of: vhf, lights, broken"),
    });
    expect(channel.current).toBe("vhf");
    expect(() => bridge<Channel>({}, { start: "vhf" })).toThrow(
      expect.objectContaining({ code: "NO_SUCH_IMPLEMENTATION" }),
    );
  });

  test("to an implementation that cannot be created", async () => {
    const channel = make();
    await expect(channel.use("broken")).rejects.toThrow("no post today");
    expect([channel.current, channel.port.name]).toEqual(["vhf", "vhf"]);
  });

  test("to a released object", async () => {
    const channel = make();
    expect(channel.port.name).toBe("vhf");
    await channel.use("lights");
    await expect(channel.use("vhf")).rejects.toMatchObject({ code: "RELEASED" });
    expect(channel.current).toBe("lights");
  });
});

test("no call is lost or served by a released implementation, for any interleaving", async () => {
  const step = fc.oneof(
    fc.record({ use: fc.constantFrom("a", "b", "c") }),
    fc.record({ send: fc.string() }),
    fc.record({ finish: fc.constantFrom("a", "b", "c") }),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(step, { maxLength: 40 }), async (steps) => {
      const made = new Map<string, Desk[]>();
      const open = (name: string) => () => {
        const desk = new Desk(name);
        made.set(name, [...(made.get(name) ?? []), desk]);
        return name === "c" ? Promise.resolve(desk) : desk;
      };
      const channel = bridge<Channel>(
        { a: open("a") as () => Desk, b: open("b") as () => Desk, c: open("c") as () => Promise<Desk> },
        {
          start: "a",
          surface,
          release: (desk) => {
            (desk as Desk).isReleased = true;
          },
        },
      );
      const finish = (name: string) => made.get(name)?.forEach((desk) => void desk.finish());
      const calls: [Promise<string>, string][] = [];
      const changes: Promise<void>[] = [];
      for (const step of steps) {
        if ("use" in step) changes.push(channel.use(step.use));
        else if ("send" in step) calls.push([channel.port.send(step.send), step.send]);
        else finish(step.finish);
        await null;
      }
      const finishing = setInterval(() => [...made.keys()].forEach(finish), 0);
      const answers = await Promise.all(calls.map(async ([answer, text]) => [await answer, text] as const));
      await Promise.all(changes);
      clearInterval(finishing);
      expect(answers.every(([answer, text]) => /^[abc]: /.test(answer) && answer.slice(3) === text)).toBe(
        true,
      );
      const desks = [...made.values()].flat();
      const last = changes.length > 0 ? 1 : Math.min(1, desks.length);
      expect(desks.filter((desk) => !desk.isReleased).length).toBeLessThanOrEqual(last);
    }),
    { numRuns: 60 },
  );
});
