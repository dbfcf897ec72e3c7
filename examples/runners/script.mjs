/** Without a test runner: prints the report, and ends with 1 if there is a finding. Run `node script.mjs`. */
import { checkContract, conformanceText } from "sleeve/conform";
import { depths, implementations } from "./depths.mjs";

const report = await checkContract(depths, implementations);
console.log(conformanceText(report));
process.exitCode = report.conforms ? 0 : 1;
