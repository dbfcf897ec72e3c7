import { writeFileSync } from "node:fs";
import { join } from "node:path";
import fc from "fast-check";
import { override } from "sleeve";
import { checkContract, compare, contract, injectFaults } from "sleeve/conform";
import { faulty, implementations, openFixedTides } from "../after/dist/conformance/implementations.js";
import { tideTableContract } from "../after/dist/conformance/tide-table.contract.js";
import { tugsOfToday } from "../after/dist/tugs/roster-tugs.js";

const vessels = fc.constantFrom("Marigold", "Tern", "Osprey");

/** The contract of the tugs, with arguments that exhaust them. */
const tugs = contract("Tugs", {
  arguments: { send: [vessels, fc.integer({ min: 100, max: 9000 })], recall: [vessels] },
});

/** Runs the contracts of the office, and writes the results to files for `sleeve report`. */
export async function writeResults(folder) {
  const terms = { runs: 25, length: 6 };
  const results = {
    conformance: await checkContract(tideTableContract, implementations, terms),
    wrong: await checkContract(tideTableContract, faulty, terms),
    faults: await injectFaults(tideTableContract, openFixedTides, { ...terms, name: "a fixed table" }),
    tugs: await compare(tugs, { reference: tugsOfToday, candidate: forgetfulTugs }),
  };
  const files = {};
  for (const [name, result] of Object.entries(results)) {
    files[name] = join(folder, `${name}.json`);
    writeFileSync(files[name], JSON.stringify(result, null, 2));
  }
  return { ...results, folder, files };
}

function forgetfulTugs() {
  return override(tugsOfToday(), () => ({ recall: () => {} }));
}
