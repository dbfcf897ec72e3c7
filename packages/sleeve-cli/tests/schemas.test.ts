import { readFileSync } from "node:fs";
import { join } from "node:path";
import { Ajv2020 } from "ajv/dist/2020.js";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "./harness.ts";

function valid(name: string, text: string): string {
  const schema = JSON.parse(
    readFileSync(join(import.meta.dirname, `../schemas/${name}.schema.json`), "utf8"),
  ) as object;
  const ajv = new Ajv2020();
  const isValid = ajv.validate(schema, JSON.parse(text));
  return isValid ? "valid" : ajv.errorsText();
}

test("the output of survey, draft, move and drift conforms to the schemas", () => {
  const crane =
    "export declare class Crane { constructor(id: string); lift(tons: number, ...more: string[]): this; readonly top?: number }\n";
  const root = project({
    ...installed("crane", crane),
    "src/a.ts":
      'import { Crane } from "crane";\nexport class Big extends Crane {}\nexport const top: number | undefined = new Crane("a").lift(2, "x").top;\n',
    "src/b.ts":
      'export const b = (name: string): unknown => import(name);\nexport const c: unknown = import("crane");\n',
  });
  expect(valid("survey", sleeve(root, "survey", "--json", "--built-ins").stdout)).toBe("valid");
  expect(valid("drift", sleeve(root, "drift", "--record", "--json").stdout)).toBe("valid");
  expect(valid("surfaces", readFileSync(join(root, "sleeve.surfaces.json"), "utf8"))).toBe("valid");
  expect(valid("draft", sleeve(root, "draft", "crane", "--write", "--json").stdout)).toBe("valid");
  expect(valid("move", sleeve(root, "move", "crane", "--json").stdout)).toBe("valid");
  const next = join(root, "next");
  expect(sleeve(root, "drift", "--json", "--against", next).code).toBe(2);
  expect(valid("drift", sleeve(root, "drift", "--json").stdout)).toBe("valid");
});
