import { BerthLedger } from "@port-ellery/berth-ledger";
import fc from "fast-check";
import { NeverSatisfied, OperationFailed, Refusal, type Sample, type WaitReport } from "sleeve";
import { bridgeOf, contract, facadeOf } from "sleeve/conform";
import { conforms } from "sleeve/vitest";
import { describe, expect, test, vi } from "vitest";
import { type Office, openOffice, type Parts, type Visit } from "../src/admit.ts";
import { NoBerth } from "../src/berths/berths.ts";
import { openBerths } from "../src/berths/ledger-berths.ts";
import { openFixedTides } from "../src/conformance/implementations.ts";
import { FakeNoticeChannel } from "../src/generated/fake-notice-channel.ts";
import { guardedBerths, master, visitor } from "../src/guarded-berths.ts";
import { openLights } from "../src/notices/lights-channel.ts";
import { NotAnnounced, type NoticeChannel } from "../src/notices/notice-channel.ts";
import { type ChannelName, openNotices, refined } from "../src/notices/notices.ts";
import { openPost } from "../src/notices/post-channel.ts";
import { openVhf } from "../src/notices/vhf-channel.ts";
import { connectGaugeTides } from "../src/tides/gauge-tides.ts";
import { awaitedReading } from "../src/tides/latest-reading.ts";
import { quickTides } from "../src/tides/quick-tides.ts";
import { metres } from "../src/tides/tide-table.ts";
import { tugsOfToday } from "../src/tugs/roster-tugs.ts";

const parts = (): Parts => ({
  tides: connectGaugeTides("PE-1"),
  berths: openBerths(),
  tugs: tugsOfToday(),
  notices: openNotices("vhf").port,
});

const visit = (vessel: string, more: Partial<Visit> = {}): Visit => ({
  vessel,
  draught: metres(4.6),
  length: metres(60),
  tons: 900,
  at: new Date("2026-11-24T08:00Z"),
  ...more,
});

const visits = fc.array(
  fc.record({
    draught: fc.double({ min: 1, max: 8, noNaN: true }).map(metres),
    length: fc.integer({ min: 10, max: 120 }).map(metres),
    tons: fc.constantFrom(200, 900, 5000),
    at: fc.integer({ min: 0, max: 1439 }).map((minute) => new Date(Date.UTC(2026, 10, 24, 0, minute))),
  }),
  { minLength: 1, maxLength: 7 },
);

test("the office gives the same answers before and after, for random vessels and channels", async () => {
  await fc.assert(
    fc.asyncProperty(visits, fc.constantFrom("vhf", "lights", "post"), async (coming, channel) => {
      // The old office keeps its ledger and its roster in module variables.
      vi.resetModules();
      const { admit: admitBefore } = await import("../../before/src/admit.ts");
      const office = openOffice({ ...parts(), notices: openNotices(channel).port });
      for (const [index, each] of coming.entries()) {
        const vessel = `Vessel ${index}`;
        const before = await admitBefore({ vessel, ...each }, channel);
        const after = await office.admit({ vessel, ...each });
        const reported =
          after instanceof Refusal
            ? `refused: ${after.reason}`
            : `berth ${after.berth}, ${after.tugs.length > 0 ? `tugs ${after.tugs.join(" and ")}` : "no tugs"}, announced by ${channel}`;
        expect(reported.toLowerCase().replace(/\.$/, "")).toBe(before.toLowerCase());
      }
    }),
    { numRuns: 25 },
  );
});

describe("admitting a vessel", () => {
  test("undoes the booking and the tugs when the notice fails", async () => {
    const on = parts();
    const notices = new FakeNoticeChannel({
      announce: async () => {
        throw new NotAnnounced("the radio is dead");
      },
    });
    const failure = await openOffice({ ...on, notices })
      .admit(visit("Marigold"))
      .catch((error: unknown) => error);
    expect(failure).toBeInstanceOf(OperationFailed);
    expect(failure).toMatchObject({
      step: "notice",
      undone: ["tugs", "booking"],
      notUndone: [],
      cause: { name: "NotAnnounced" },
    });
    expect(on.berths.all().every(({ vessel }) => vessel === undefined)).toBe(true);
    expect(on.tugs.send("Tern", 9000)).toEqual(["Plover", "Dunlin"]);
  });

  test("is refused with its reason, and nothing stays booked", async () => {
    const on = parts();
    const office = openOffice(on);
    expect(await office.admit(visit("Deep", { draught: metres(9) }))).toMatchObject({
      step: "water",
      reason: "there is too little water over the bar",
    });
    expect(await office.admit(visit("Long", { length: metres(200) }))).toMatchObject({
      step: "booking",
      reason: "No berth is long enough.",
    });
    for (const name of ["One", "Two", "Three"]) await office.admit(visit(name));
    expect(await office.admit(visit("Four", { length: metres(20) }))).toMatchObject({
      step: "tugs",
      undone: ["booking"],
    });
    expect(office.berths().filter(({ vessel }) => vessel)).toHaveLength(3);
  });
});

describe("the berths", () => {
  test("are plain data with our own errors, and expose no records of the ledger", () => {
    const berths = openBerths();
    const { berth, reference } = berths.book("Marigold", metres(60));
    expect(berths.all().find(({ number }) => number === berth)).toEqual({
      number: 3,
      length: expect.closeTo(60.05),
      vessel: "Marigold",
    });
    Object.assign(berths.all()[0] ?? {}, { vessel: "Ghost" });
    expect(berths.all()[0]?.vessel).toBeUndefined();
    berths.cancel(reference);
    expect(() => berths.cancel(reference)).toThrow(NoBerth);
    berths.close();
    berths.close();
    expect(() => berths.all()).toThrow(expect.objectContaining({ code: "RELEASED" }));
  });

  test("are opened at the first allowed use", () => {
    const opened = BerthLedger.openings;
    const forVisitor = guardedBerths(visitor);
    expect(() => forVisitor.book("Marigold", metres(60))).toThrow(
      expect.objectContaining({ code: "DENIED" }),
    );
    const forMaster = guardedBerths(master);
    expect(() => forMaster.book(" ", metres(60))).toThrow('book: argument 1 is " "');
    expect(() => forMaster.book("Marigold", metres(900))).toThrow(
      "book: argument 2 is 900, which is not between 1 and 400.",
    );
    expect(BerthLedger.openings).toBe(opened);
    expect([forVisitor.all().length, forMaster.book("Marigold", metres(60)).berth]).toEqual([5, 3]);
    expect(BerthLedger.openings).toBe(opened + 2);
  });
});

const noticeContract = contract<NoticeChannel>("NoticeChannel", {
  surface: { announce: "method" },
  arguments: {
    announce: [
      fc.record({ vessel: fc.constantFrom("Tern", "Marigold"), berth: fc.integer({ min: 1, max: 5 }) }),
    ],
  },
  examples: {
    "announces a vessel and its berth": async (channel) =>
      (await channel.announce({ vessel: "Tern", berth: 2 })) === undefined,
  },
  errors: [NotAnnounced],
});

conforms(noticeContract, {
  "the radio": openVhf,
  "the mast": openLights,
  "the quay": openPost,
  "whichever is in use": bridgeOf({
    implementations: { vhf: openVhf, lights: openLights, post: openPost },
    wrap: (channels: Record<ChannelName, NoticeChannel>) => openNotices("vhf", channels),
  }),
  "the refined abstraction": () => refined(openNotices("post")),
});

const officeContract = contract<Office>("Office", {
  surface: { admit: "method", berths: "method" },
  arguments: { admit: [fc.constant(visit("Marigold")), fc.constant(undefined)] },
});

conforms(
  officeContract,
  {
    "the office": facadeOf<Office, Parts>({
      subsystems: () => ({ ...parts(), tides: openFixedTides() }),
      wrap: (all) => openOffice(all),
      operations: {
        admit: {
          steps: ["tides.heightAt", "berths.book", "tugs.send", "notices.announce"],
          undo: { "berths.book": "berths.cancel", "tugs.send": "tugs.recall" },
        },
      },
    }),
  },
  { runs: 10, length: 4 },
);

test("a shift of berths uses the active channel", async () => {
  const channel = openNotices("lights");
  const notices = refined(channel);
  await expect(notices.shiftBerth("Tern", 2, 0)).rejects.toThrow(NotAnnounced);
  await channel.use("post");
  await notices.shiftBerth("Tern", 2, 0);
  expect(channel.current).toBe("post");
});

test("cached sums are not computed again", async () => {
  const computed: Sample[] = [];
  const tides = quickTides((sample) => computed.push(sample));
  const at = new Date("2026-11-24T08:00Z");
  const heights = await Promise.all([tides.heightAt(at), tides.heightAt(new Date(at)), tides.heightAt(at)]);
  expect(new Set(heights).size).toBe(1);
  expect(computed).toHaveLength(1);
});

test("a late gauge is awaited until its timeout", async () => {
  const waited: WaitReport[] = [];
  const reading = awaitedReading("2026-11-24 09:00", 40, (waitReport) => waited.push(waitReport));
  expect(await reading.latest()).toBeCloseTo(4.5, 1);
  expect(waited).toMatchObject([{ member: "latest", satisfied: true }]);
  reading.close();
  await expect(reading.latest()).rejects.toMatchObject({ code: "RELEASED" });
  const silent = awaitedReading("2026-11-24 09:00", 60_000, () => {});
  await expect(silent.latest()).rejects.toBeInstanceOf(NeverSatisfied);
  silent.close();
});
