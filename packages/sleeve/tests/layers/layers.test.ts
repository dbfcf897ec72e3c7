import { decorate, type LogEntry, layer, logging, type Sample, timing } from "sleeve";
import { describe, expect, test, vi } from "vitest";

function logInto(entries: unknown[]) {
  const keep = (entry: LogEntry) => void entries.push(entry);
  return logging({ logger: { info: keep, error: keep } });
}

const office = () => ({
  admit: (vessel: string) => vessel.length > 0,
  berth: async (vessel: string) => `${vessel} at 4`,
  refuse: (reason: string): never => {
    throw new Error(reason);
  },
  lose: async (): Promise<void> => {
    throw new Error("lost");
  },
  signIn: (user: { name: string; password: string }) => user.name,
  setPassword: (word: string) => word.length,
});

describe("logging", () => {
  test("logs each call and its outcome under one number", async () => {
    const entries: LogEntry[] = [];
    const wrapper = decorate(office(), logInto(entries));
    wrapper.admit("Marigold");
    await wrapper.berth("Marigold");
    expect(() => wrapper.refuse("full")).toThrow("full");
    await expect(wrapper.lose()).rejects.toThrow("lost");
    expect(entries.map(({ member, event }) => `${member} ${event}`)).toEqual([
      "admit called",
      "admit returned",
      "berth called",
      "berth resolved",
      "refuse called",
      "refuse threw",
      "lose called",
      "lose rejected",
    ]);
    expect(new Set(entries.map(({ call }) => call)).size).toBe(4);
    expect(entries[0]).toMatchObject({ args: ["Marigold"] });
    expect(entries[3]).toMatchObject({ value: "Marigold at 4" });
    expect(entries[5]).toMatchObject({ error: expect.objectContaining({ message: "full" }) });
  });

  test("redacts values with secret names wherever they are passed", () => {
    const entries: LogEntry[] = [];
    const wrapper = decorate(office(), logInto(entries));
    wrapper.signIn({ name: "Ada", password: "hunter2" });
    wrapper.setPassword("hunter2");
    expect(JSON.stringify(entries)).not.toContain("hunter2");
    expect(entries[0]).toMatchObject({ args: [{ name: "Ada", password: "[redacted]" }] });
  });

  test("logs to the console by default", () => {
    const info = vi.spyOn(console, "info").mockImplementation(() => {});
    decorate(office(), logging()).admit("Marigold");
    expect(info.mock.calls.map(([, message]) => message)).toEqual(["admit called", "admit returned"]);
    info.mockRestore();
  });
});

describe("timing", () => {
  test("measures until a call returns or throws, or its promise settles", async () => {
    let time = 0;
    const samples: Sample[] = [];
    const crane = {
      lift: () => {
        time += 5;
      },
      drop: () => {
        time += 2;
        throw new Error("dropped");
      },
      swing: async () => {
        time += 1;
        await Promise.resolve();
        time += 30;
      },
    };
    const timed = timing({ onSample: (sample) => samples.push(sample), clock: { now: () => time } });
    const wrapper = decorate(crane, timed);
    wrapper.lift();
    expect(() => wrapper.drop()).toThrow("dropped");
    await wrapper.swing();
    expect(samples).toEqual([
      { member: "lift", status: "returned", start: 0, milliseconds: 5 },
      { member: "drop", status: "threw", start: 5, milliseconds: 2 },
      { member: "swing", status: "resolved", start: 7, milliseconds: 31 },
    ]);
  });

  test("applies only to the selected members", () => {
    const samples: Sample[] = [];
    const wrapper = decorate(
      office(),
      timing({ onSample: (sample) => samples.push(sample), only: ["setPassword"] }),
    );
    wrapper.admit("a");
    wrapper.setPassword("b");
    expect(samples.map(({ member }) => member)).toEqual(["setPassword"]);
  });

  test("does not start a lazy thenable", () => {
    let started = 0;
    const lazy = { then: () => void (started += 1) };
    const wrapper = decorate({ query: () => lazy }, timing({ onSample: () => {} }));
    expect(wrapper.query()).toBe(lazy);
    expect(started).toBe(0);
  });
});

test("a layer that throws breaks no call, and is reported once", async () => {
  const warn = vi.spyOn(process, "emitWarning").mockImplementation(() => {});
  const failing = layer("failing", {
    watch: () => () => {
      return () => {
        throw new Error("disk full");
      };
    },
  });
  const failingAtOnce = layer("failing at once", {
    watch: () => () => {
      throw new Error("no disk");
    },
  });
  const wrapper = decorate(office(), failing, failingAtOnce);
  expect(wrapper.admit("Marigold")).toBe(true);
  expect(await wrapper.berth("Marigold")).toBe("Marigold at 4");
  expect(() => wrapper.refuse("full")).toThrow("full");
  const reported = warn.mock.calls.map(([warning]) => warning);
  expect(reported).toHaveLength(2);
  expect(reported).toContainEqual(
    expect.objectContaining({
      code: "LAYER_FAILED",
      message: expect.stringMatching(/"failing" .*disk full/),
    }),
  );
  warn.mockRestore();
});
