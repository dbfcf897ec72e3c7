import { FAULTS } from "./catalogue.ts";
import type { FaultReport, InjectedFault } from "./inject.ts";

/** Formats a fault report: the result for each fault, then the missed ones with an example each. */
export function faultsText(report: FaultReport): string {
  const { contract, implementation, faults, detected, missed, unobservable, failing, seed } = report;
  const head = `${contract}: faults injected into ${implementation}, one at a time, seed ${seed}`;
  const kinds = FAULTS.map(({ name }) => name).filter((name) => faults.some(({ fault }) => fault === name));
  const width = Math.max(...kinds.map(({ length }) => length), 5);
  const rows = kinds.map((kind) => {
    const ofFault = faults.filter(({ fault }) => fault === kind);
    const lost = ofFault.filter(({ isDetected }) => !isDetected);
    const members = lost.length > 0 ? `  ${lost.map(({ member }) => member).join(", ")}` : "";
    return `  ${kind.padEnd(width)}  ${String(ofFault.length - lost.length).padStart(7)}  ${String(lost.length).padStart(6)}${members}`;
  });
  const table = rows.length > 0 ? ["", `  ${"fault".padEnd(width)}  detected  missed`, ...rows] : [];
  const checks = faults.flatMap(({ by }) => by ?? []);
  const by = [...new Set(checks)].map(
    (check) => `  ${String(checks.filter((name) => name === check).length).padStart(5)}  ${check}`,
  );
  const noticing = by.length > 0 ? ["", "  detected by", ...by] : [];
  const before =
    failing.length > 0
      ? ["", `Checks that fail without a fault, and were not used: ${failing.join("; ")}`]
      : [];
  const examples = missedTexts(faults.filter(({ isDetected }) => !isDetected));
  const total = detected + missed;
  const share =
    total === 0
      ? "no fault could be observed"
      : `${detected} of ${total} detected (${Math.floor((100 * detected) / total)} %)`;
  const others = unobservable > 0 ? `, ${unobservable} more not observable by a client` : "";
  return [head, ...table, ...noticing, ...before, ...examples, "", `${share}${others}`, ""].join("\n");
}

/** One example often detects several faults, so it is printed once. */
function missedTexts(missed: readonly InjectedFault[]): readonly string[] {
  const examples = [...new Set(missed.map(({ example }) => example))];
  return examples.flatMap((code) => {
    const own = missed.filter(({ example }) => example === code);
    return [
      "",
      ...own.map(({ member, fault }) => `missed: ${member}: ${fault}`),
      "  an example that detects it",
      ...code.split("\n").map((line) => `    ${line}`),
    ];
  });
}
