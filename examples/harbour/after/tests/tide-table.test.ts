import { GaugeFeed } from "@port-ellery/gauge-feed";
import { checkContract, contract, type Finding, recordingOf, stubFrom, stubOf } from "sleeve/conform";
import { conforms } from "sleeve/vitest";
import { describe, expect, test } from "vitest";
import { faulty, implementations } from "../src/conformance/implementations.ts";
import { tideTableContract } from "../src/conformance/tide-table.contract.ts";
import { gaugeTides } from "../src/tides/gauge-tides.ts";

conforms(tideTableContract, implementations, { runs: 30, length: 8 });

describe("a wrong wrapper fails the contract", () => {
  const findingsOf = async (name: string): Promise<readonly Finding[]> => {
    const given = faulty[name];
    if (!given) throw new Error(`There is no ${name}.`);
    const { implementations: reports } = await checkContract(tideTableContract, { [name]: given });
    return reports.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings));
  };

  test("with the name of the missing member", async () => {
    expect(await findingsOf("one that drops a member")).toContainEqual(
      expect.objectContaining({ name: "missing", place: "tidesOn", remedy: "Add tidesOn to the wrapper." }),
    );
  });

  test("with the swallowed error and the result instead", async () => {
    expect(await findingsOf("one that swallows errors")).toContainEqual(
      expect.objectContaining({
        name: "refusal",
        place: "a time before there were tables",
        found: "the result NaN",
        expected: "the call to fail with TidesUnavailable",
      }),
    );
  });

  test("with the unit of the result", async () => {
    const findings = await findingsOf("one that answers in feet");
    expect(findings.find(({ name }) => name === "example")?.found).toMatch(
      /14\.86\d+ where 4\.53 ± 0\.02 metres was expected: that is 4\.53 metres in feet, so a conversion is missing/,
    );
  });
});

describe("a recording of the gauge", async () => {
  const noon = new Date("2026-11-24T12:00Z");
  const recording = recordingOf("the gauge of PE-1");
  const real = gaugeTides(recording.of(new GaugeFeed("PE-1")));
  const { port } = real;
  const height = await real.heightAt(noon);
  const turns = await real.tidesOn(noon);
  await real.heightAt(new Date("1890-01-01T00:00Z")).catch(() => {});
  real.close();

  test("replaces it behind the adapter, with callbacks and failures", async () => {
    const tides = gaugeTides(stubFrom<GaugeFeed>(recording.toText()));
    expect(tides.port).toBe(port);
    expect(await tides.heightAt(noon)).toBe(height);
    expect(await tides.tidesOn(noon)).toEqual(turns);
    await expect(tides.heightAt(new Date("1890-01-01T00:00Z"))).rejects.toThrow("The gauge has no reading.");
  });

  conforms(contract<GaugeFeed>("GaugeFeed"), {
    "the recording": stubOf<GaugeFeed>({
      recording: recording.toText(),
      subject: () => new GaugeFeed("PE-1"),
    }),
  });
});
