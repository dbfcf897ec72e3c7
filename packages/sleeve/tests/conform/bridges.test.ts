import { bridge } from "sleeve";
import { bridgeOf, checkContract, contract } from "sleeve/conform";
import { expect, test } from "vitest";

interface Channel {
  send(text: string): string;
  post(text: string): Promise<string>;
}

class Lamp implements Channel {
  readonly #name: string;
  #sent = 0;
  constructor(name: string) {
    this.#name = name;
  }
  send(text: string): string {
    this.#sent += 1;
    return `${this.#name} ${this.#sent} ${text}`;
  }
  async post(text: string): Promise<string> {
    return this.send(text);
  }
}

interface Made {
  readonly red: Channel;
  readonly green: Channel;
}

interface Handle {
  readonly port: Channel;
  use(name: string): Promise<void>;
}

/** The parts of a bridge by hand that mistakes replace. */
interface Parts {
  /** The implementation that was chosen last. */
  active: Channel;
  /** The one that a switch in progress chooses. */
  next: Channel | undefined;
}

function bridging(
  made: Made,
  change: (parts: Parts) => Partial<Channel> & { use?: (channel: Channel) => Promise<void> } = () => ({}),
): Handle {
  const parts: Parts = { active: made.red, next: undefined };
  const { use, ...members } = change(parts);
  const port: Channel = {
    send: (text) => parts.active.send(text),
    post: (text) => parts.active.post(text),
    ...members,
  };
  const choose = async (channel: Channel) => {
    parts.active = channel;
  };
  return { port, use: (name) => (use ?? choose)(made[name as keyof Made]) };
}

const RIGHT: Readonly<Record<string, (made: Made) => Handle>> = {
  "by hand": (made) => bridging(made),
  "of the library": (made) => bridge<Channel>({ ...made }, { start: "red" }) as Handle,
  "that switches after an await": (made) =>
    bridging(made, (parts) => ({
      use: async (channel) => {
        await null;
        parts.active = channel;
      },
    })),
  "that waits for calls in flight": (made) =>
    bridging(made, (parts) => {
      const open = new Set<Promise<string>>();
      return {
        post: (text) => {
          const call = parts.active.post(text);
          open.add(call);
          return call.finally(() => open.delete(call));
        },
        use: async (channel) => {
          parts.active = channel;
          await Promise.allSettled(open);
        },
      };
    }),
};

const WRONG: Readonly<Record<string, (made: Made) => Handle>> = {
  "looks up its implementation after an await": (made) =>
    bridging(made, (parts) => ({
      async post(text) {
        await null;
        return parts.active.post(text);
      },
    })),
  "repeats a call after a switch": (made) =>
    bridging(made, (parts) => ({
      async post(text) {
        const before = parts.active;
        const result = await before.post(text);
        return before === parts.active ? result : parts.active.post(text);
      },
    })),
  "loses a result after a switch": (made) =>
    bridging(made, (parts) => ({
      async post(text) {
        const before = parts.active;
        const result = await before.post(text);
        return before === parts.active ? result : (undefined as never);
      },
    })),
  "never switches": (made) => bridging(made, () => ({ send: (text) => made.red.send(text) })),
  "switches after its promise": (made) =>
    bridging(made, (parts) => ({
      use: async (channel) => {
        setTimeout(() => {
          parts.active = channel;
        }, 5);
      },
    })),
  "calls both during a switch": (made) =>
    bridging(made, (parts) => ({
      send(text) {
        parts.next?.send(text);
        return parts.active.send(text);
      },
      use: async (channel) => {
        parts.next = channel;
        await null;
        parts.active = channel;
        parts.next = undefined;
      },
    })),
  "calls none during a switch": (made) =>
    bridging(made, (parts) => ({
      send: (text) => (parts.next ? (undefined as never) : parts.active.send(text)),
      use: async (channel) => {
        parts.next = channel;
        await null;
        parts.active = channel;
        parts.next = undefined;
      },
    })),
};

async function findingsOf(wrap: (made: Made) => Handle): Promise<readonly string[]> {
  const implementations = { red: () => new Lamp("red"), green: () => new Lamp("green") };
  const { implementations: checked } = await checkContract(
    contract<Channel>("Channel"),
    { bridge: bridgeOf<Channel, Made & Record<string, object>>({ implementations, wrap: wrap as never }) },
    { runs: 20 },
  );
  const found = checked.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings));
  return [...new Set(found.map(({ name }) => name))];
}

test.each(Object.entries(RIGHT))("a bridge %s conforms", async (_name, wrap) => {
  expect(await findingsOf(wrap)).toEqual([]);
});

test.each(Object.entries(WRONG))("a bridge that %s does not", async (_name, wrap) => {
  expect(await findingsOf(wrap)).toEqual(["swap"]);
});

test("all forms are tried", () => {
  expect([Object.keys(RIGHT).length, Object.keys(WRONG).length]).toEqual([4, 7]);
});
