import { expect, test } from "vitest";
import { sampled } from "../harness.ts";
import { importsLeft, isolate, printed, projectOf } from "./isolate.ts";
import { STYLES } from "./styles.ts";

test.each(sampled(STYLES))(
  "moved callers use the target's names, and the project behaves as before: $style",
  (style) => {
    const root = projectOf(style);
    const { drafted, moved } = isolate(root, style.module);
    expect(drafted.stderr + moved.stderr).toBe("");
    const { manualSteps } = JSON.parse(drafted.stdout) as {
      readonly manualSteps: readonly { readonly what: string }[];
    };
    expect(manualSteps.map(({ what }) => what).sort()).toEqual([...(style.manualSteps ?? [])].sort());
    expect(importsLeft(root, style.module)).toEqual([]);
    expect(printed(root)).toBe(style.prints);
  },
);

test("every case is listed", () => {
  expect([STYLES.length]).toEqual([20]);
});
