import { join } from "node:path";
import { type Browser, chromium, type Page } from "playwright-core";
import { build, type PreviewServer, preview } from "vite";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { browserPath } from "../../../../scripts/browser.mjs";

const project = { root: join(import.meta.dirname, ".."), logLevel: "warn" } as const;
const CSP = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src data:";

let server: PreviewServer;
let browser: Browser;
let page: Page;
let complaints: string[];

beforeAll(async () => {
  await build(project);
  server = await preview({
    ...project,
    preview: { port: 0, host: "127.0.0.1", headers: { "Content-Security-Policy": CSP } },
  });
  const executablePath = browserPath();
  if (!executablePath) throw new Error("There is no Chromium. Run: node scripts/prepare.mjs --browser");
  browser = await chromium.launch({ executablePath, args: ["--no-sandbox"] });
});

afterAll(async () => {
  await browser?.close();
  await server?.close();
});

beforeEach(async () => {
  page = await browser.newPage();
  complaints = [];
  page.on("pageerror", (error) => complaints.push(error.message));
  page.on("console", (message) => message.type() === "error" && complaints.push(message.text()));
  await page.goto(server.resolvedUrls?.local[0] ?? "");
  await page.waitForSelector("#chart svg");
  return async () => {
    expect(complaints).toEqual([]);
    await page.close();
  };
});

/** Returns the rows of the table of calls, as texts. */
const calls = () =>
  page.$$eval("#calls tr", (rows) =>
    rows.map((row) => [...row.querySelectorAll("td")].map((cell) => cell.textContent ?? "")),
  );

const settled = () =>
  page.waitForFunction(() => {
    const text = document.querySelector("#calls")?.textContent ?? "";
    return text !== "" && !text.includes("…");
  });

const heightTold = async () =>
  Number(/stands at ([\d.]+) metres/.exec((await page.textContent("#summary")) ?? "")?.[1]);

describe("the page, in a browser and under a strict content security policy", () => {
  test("draws today's tide with its turns", async () => {
    expect(await page.textContent("#caption")).toBe(
      `Port Ellery, ${new Date().toISOString().slice(0, 10)}, read from the gauge`,
    );
    const labels = await page.$$eval("#chart text", (texts) => texts.map((text) => text.textContent ?? ""));
    const turns = labels.filter((label) => /^\d\d:\d\d {2}\d\.\d\d m$/.test(label));
    expect(turns.length).toBeGreaterThanOrEqual(3);
    expect(await heightTold()).toBeGreaterThan(0);
  });

  test("shows each call with its member, arguments, outcome and duration", async () => {
    await settled();
    const shown = await calls();
    expect(shown).toHaveLength(51);
    for (const [call, member, args, outcome, milliseconds] of shown) {
      expect(call).toMatch(/^#\d+$/);
      expect(args).toMatch(/^\d{4}-\d\d-\d\d \d\d:\d\dZ$/);
      expect(outcome).toMatch(member === "tidesOn" ? /^\d tides$/ : /^\d\.\d{3}$/);
      expect(Number(milliseconds)).toBeGreaterThan(0);
    }
  });

  test("shows the same height with either table, switched at run time", async () => {
    const read = await heightTold();
    await page.check("input[value=sums]");
    await page.waitForFunction(() =>
      document.querySelector("#caption")?.textContent?.includes("harmonic sums"),
    );
    expect(Math.abs((await heightTold()) - read)).toBeLessThan(0.03);
  });

  test("shows exactly the calls of the active layers", async () => {
    await page.uncheck("input[name=timing]");
    await page.click("#read");
    await settled();
    const untimed = await calls();
    expect(untimed.every(([, , , outcome, milliseconds]) => outcome !== "" && milliseconds === "")).toBe(
      true,
    );

    await page.uncheck("input[name=logging]");
    await page.click("#read");
    expect(await calls()).toEqual([]);
    expect(await page.isVisible("#quiet")).toBe(true);

    await page.check("input[name=timing]");
    await page.waitForSelector("#calls tr");
    const [unlogged] = await calls();
    expect(unlogged?.[2]).toBe("not logged");
    expect(Number(unlogged?.[4])).toBeGreaterThan(0);
  });

  test("answers from the cache when selected, and logs those calls too", async () => {
    await page.check("input[name=cached]");
    // The time is fixed, so that both calls are in the same minute.
    await page.evaluate(() => {
      const now = Date.now();
      class FixedDate extends Date {
        constructor(...given: unknown[]) {
          super(...((given.length > 0 ? given : [now]) as [number]));
        }
      }
      Object.assign(window, { Date: FixedDate });
    });
    await page.click("#read");
    await settled();
    // From here on the slow gauge never answers in time.
    await page.evaluate(() => Object.assign(window, { setTimeout: () => 0 }));
    const before = (await calls()).length;
    await page.click("#read");
    await page.waitForFunction((count) => document.querySelectorAll("#calls tr").length > count, before);
    await settled();
    const [again, first] = await calls();
    expect([again?.[1], again?.[3]]).toEqual(["heightAt", first?.[3]]);
  });

  test("waits for a late gauge, and shows the duration", async () => {
    await page.click("#wait");
    await page.waitForFunction(() =>
      document.querySelector("#summary")?.textContent?.startsWith("The gauge reads"),
    );
    const [, height, late] =
      /reads ([\d.]+) metres. It was (\d+) ms late/.exec((await page.textContent("#summary")) ?? "") ?? [];
    expect(Number(height)).toBeGreaterThan(0);
    expect(Number(late)).toBeGreaterThanOrEqual(50);
  });

  const admit = async (fields: Readonly<Record<string, string>>) => {
    const before = await page.textContent("#answer");
    for (const [name, value] of Object.entries(fields)) await page.fill(`#visit input[name=${name}]`, value);
    await page.click("#visit button");
    await page.waitForFunction((old) => document.querySelector("#answer")?.textContent !== old, before);
    return (await page.textContent("#answer")) ?? "";
  };
  const rowsOf = (body: string) =>
    page.$$eval(`${body} tr`, (rows) =>
      rows.map((row) => [...row.querySelectorAll("td")].map((cell) => cell.textContent ?? "")),
    );

  test("admits a vessel through the facade, step by step, and shows its berth", async () => {
    const shallow = { draught: "0.5", length: "60" };
    expect(await admit({ ...shallow, vessel: "Marigold", tons: "900" })).toBe(
      "Marigold comes to berth 3 with Heron, announced by vhf.",
    );
    expect((await rowsOf("#steps")).map(([, step, status]) => `${step} ${status}`)).toEqual([
      "water done",
      "booking done",
      "tugs done",
      "notice done",
    ]);
    expect(await rowsOf("#berths")).toContainEqual(["3", "60", "Marigold"]);
    await page.check("#visit input[value=lights]");
    expect(await admit({ ...shallow, vessel: "Tern", tons: "200" })).toContain(
      "Tern comes to berth 4 without tugs, announced by lights.",
    );
  });

  test("refuses with the reason, and undoes the completed steps", async () => {
    const shallow = { draught: "0.5", tons: "9000" };
    expect(await admit({ ...shallow, vessel: "Long", length: "390" })).toBe(
      "Long is refused: No berth is long enough.",
    );
    await admit({ ...shallow, vessel: "One", length: "20" });
    expect(await admit({ ...shallow, vessel: "Two", length: "20" })).toBe(
      "Two is refused: Two needs 2 tugs, and 1 are free.",
    );
    expect((await rowsOf("#steps")).slice(-2).map(([, step, status]) => `${step} ${status}`)).toEqual([
      "tugs refused",
      "booking undone",
    ]);
    expect((await rowsOf("#berths")).filter(([, , who]) => who !== "free")).toHaveLength(1);
    await page.check("#visit input[value=visitor]");
    expect(await admit({ ...shallow, vessel: "Three", length: "20", tons: "1" })).toContain(
      "Access denied: call book.",
    );
  });
});
