/**
 * Writes the published JSON Schemas of `sleeve-cli` from the definitions in `src/documents`.
 *
 * node scripts/write-schemas.mjs [--check]   with --check, fails if a published schema is stale
 */
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { createJiti } from "jiti";
import { z } from "zod";

const isCheck = process.argv.includes("--check");
const documents = join(import.meta.dirname, "../packages/sleeve-cli/src/documents");
const folder = join(import.meta.dirname, "../packages/sleeve-cli/schemas");
const load = (file) => createJiti(import.meta.url).import(join(documents, file));

const [check, draft, drift, exported, move, survey, surface, outside, contract, wrap] = await Promise.all(
  [
    "check",
    "draft",
    "drift",
    "exports",
    "move",
    "survey",
    "surface",
    "outside-surface",
    "contract",
    "wrap",
  ].map((name) => load(`${name}-document.ts`)),
);

const schemas = {
  check: check.checkSchema,
  draft: draft.draftSchema,
  drift: drift.driftSchema,
  exports: exported.exportsSchema,
  "exports-record": exported.exportsRecordSchema,
  findings: check.recordedFindingsSchema,
  move: move.moveSchema,
  recording: contract.recordingSchema,
  result: contract.resultSchema,
  surface: surface.surfaceSchema,
  surfaces: outside.surfaceRecordSchema,
  survey: survey.surveySchema,
  wrap: wrap.wrapSchema,
};

mkdirSync(folder, { recursive: true });
const written = new Set();
const stale = [];
for (const [name, schema] of Object.entries(schemas)) {
  const file = `${name}.schema.json`;
  written.add(file);
  const { $schema, ...rest } = z.toJSONSchema(schema);
  const document = { $schema, $id: `https://sleeve.invalid/schemas/${file}`, ...rest };
  const text = `${JSON.stringify(document, null, 2)}\n`;
  const path = join(folder, file);
  if (existsSync(path) && readFileSync(path, "utf8") === text) continue;
  stale.push(file);
  if (!isCheck) writeFileSync(path, text);
}
for (const file of readdirSync(folder).filter((name) => !written.has(name))) {
  stale.push(file);
  if (!isCheck) rmSync(join(folder, file));
}
if (isCheck && stale.length > 0) {
  console.error(`Stale schemas: ${stale.join(", ")}. Run npm run schemas.`);
  process.exit(1);
}
