import { expect, test } from "vitest";
import { importsLeft, isolate, printed, projectOf } from "./isolate.ts";
import { STYLES } from "./styles.ts";

/** Styles in which keeping the names requires other edits. */
const TOLD_APART = /private fields|default object|CommonJS|parts|errors|barrel|legacy|no words/;

test.each(STYLES.filter(({ style }) => TOLD_APART.test(style)))(
  "callers keep their names, and the project does what it did: $style",
  (style) => {
    const root = projectOf(style);
    const { drafted, moved } = isolate(root, style.module, "--same-names");
    expect(drafted.stderr + moved.stderr).toBe("");
    expect(importsLeft(root, style.module)).toEqual([]);
    expect(printed(root)).toBe(style.prints);
  },
);
