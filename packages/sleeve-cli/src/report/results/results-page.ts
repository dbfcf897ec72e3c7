import type {
  CheckDocument,
  ConformanceDocument,
  FaultsDocument,
  FindingDocument,
  ResultDocument,
} from "../../documents/contract-document.ts";
import { printableDocument } from "../../printable.ts";
import { hasNoFindings, isFaults } from "../../results/results-document.ts";
import { type Figure, type Html, html, page } from "../page.ts";
import { coverageLines, detectedBy, faultRows, findingsOf, missedGroups } from "./results-text.ts";

/** Formats results as one HTML page. */
export function resultsPage(results: readonly ResultDocument[]): string {
  const documents = printableDocument(results);
  const well = documents.every(hasNoFindings);
  const findings = documents.flatMap((document) => (isFaults(document) ? [] : findingsOf(document))).length;
  const missed = documents.reduce((sum, document) => sum + (isFaults(document) ? document.missed : 0), 0);
  const text = well
    ? "no findings"
    : [findings > 0 && `${findings} findings`, missed > 0 && `${missed} faults missed`]
        .filter(Boolean)
        .join(", ");
  const title = [...new Set(documents.map(({ contract }) => contract))].join(", ");
  return page(
    `Contract: ${title}`,
    { text, isGood: well },
    documents.flatMap(figuresOf),
    html`${documents.map((document) => (isFaults(document) ? faultsHtml(document) : conformanceHtml(document)))}`,
  );
}

function figuresOf(document: ResultDocument): readonly Figure[] {
  if (isFaults(document)) {
    const { detected, missed } = document;
    return [
      { name: "faults detected", value: detected },
      { name: "faults missed", value: missed, isBad: missed > 0 },
    ];
  }
  const { implementations, coverage } = document;
  const checks = implementations.flatMap((implementation) => implementation.checks);
  const failed = checks.filter(({ findings }) => findings.length > 0).length;
  const usedCount = coverage.members.filter(({ uses }) => uses > 0).length;
  return [
    { name: "implementations", value: implementations.length },
    { name: "checks", value: checks.length },
    { name: "failed", value: failed, isBad: failed > 0 },
    { name: "members exercised", value: `${usedCount} of ${coverage.members.length}` },
  ];
}

function conformanceHtml({ implementations, coverage, contract, seed }: ConformanceDocument): Html {
  const articles = implementations.map(
    ({ name, checks, conforms }) => html`<article>
<h2>${name}: <span class="${conforms ? "good" : "bad"}">${conforms ? "conforms" : "does not conform"}</span></h2>
<table>${checks.map(checkHtml)}</table>
</article>`,
  );
  const [head, ...otherLines] = coverageLines(coverage);
  return html`${articles}<article>
<h2>${contract}: coverage</h2>
<p>${head}</p>
${otherLines.length > 0 ? html`<ul>${otherLines.map((line) => html`<li>${line.trim()}</li>`)}</ul>` : undefined}
<p class="soft">seed ${seed}</p>
</article>`;
}

function stateOf({ findings, suppressed }: CheckDocument): readonly [string, string] {
  if (findings.length > 0) return ["bad", "failed"];
  return suppressed.length > 0 ? ["warn", "suppressed"] : ["good", "ok"];
}

function checkHtml(check: CheckDocument): Html {
  const { name, findings, suppressed, notes } = check;
  const [state, stateText] = stateOf(check);
  const detailRows = [
    ...findings.map(findingHtml),
    ...suppressed.map(
      ({ finding, reason }) =>
        html`<p><b class="warn">suppressed ${finding.name}</b> ${finding.place}: ${reason}</p>`,
    ),
    ...notes.map((note) => html`<p class="soft">${note}</p>`),
  ];
  return html`<tr><td class="state ${state}">${stateText}</td><td>${name}${detailRows}</td></tr>`;
}

function findingHtml({ name, place, expected, found, remedy, code }: FindingDocument): Html {
  return html`<div><b class="bad">${name}</b> <span class="soft">${place}</span>
<dl><dt>expected</dt><dd>${expected}</dd><dt>found</dt><dd>${found}</dd><dt>remedy</dt><dd>${remedy}</dd></dl>
${code === undefined ? undefined : html`<pre>${code}</pre>`}</div>`;
}

function faultsHtml(document: FaultsDocument): Html {
  const { contract, implementation, unobservable, failing } = document;
  const rows = faultRows(document).map(
    ({ fault, detected, missed }) =>
      html`<tr><td>${fault}</td><td>${detected}</td><td class="${missed.length > 0 ? "bad" : "good"}">${missed.length}</td><td class="soft">${missed.join(", ")}</td></tr>`,
  );
  const groups = missedGroups(document).map(
    ({ example, faults }) =>
      html`<div>${faults.map(({ member, fault }) => html`<p><b class="bad">missed</b> <code>${member}</code>: ${fault}</p>`)}
<p class="soft">an example that detects it</p><pre>${example}</pre></div>`,
  );
  return html`<article>
<h2>${contract}: faults injected into ${implementation}, one at a time</h2>
<table><tr><th>fault</th><th>detected</th><th>missed</th><th></th></tr>${rows}</table>
<table><tr><th>detected by</th><th>faults</th></tr>${detectedBy(document).map(({ check, faults }) => html`<tr><td>${check}</td><td>${faults}</td></tr>`)}</table>
<p class="soft">${unobservable} more are not observable by a client, and do not count.</p>
${failing.length > 0 ? html`<p class="warn">Checks that fail without a fault, and were not used: ${failing.join("; ")}</p>` : undefined}
${groups}
</article>`;
}
