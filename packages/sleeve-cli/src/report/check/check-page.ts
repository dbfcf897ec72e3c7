import { allFindings } from "../../check/apply-config.ts";
import { isFailing } from "../../check/finding.ts";
import type { CheckResult, RatedFinding, WrapperResult } from "../../documents/check-document.ts";
import type { Place } from "../../documents/place.ts";
import { placeText } from "../../place.ts";
import { printableDocument } from "../../printable.ts";
import { byPrintableName, codeLine } from "../code-frame.ts";
import { type Html, html, page } from "../page.ts";

type Texts = ReadonlyMap<string, string>;

/**
 * Formats a check as one HTML page: the figures, then each wrapper and border with its findings in their
 * code.
 */
export function checkPage(checked: CheckResult, sources: Texts): string {
  const result = printableDocument(checked);
  const texts = byPrintableName(sources);
  const { wrappers, borders, imports, generated, config, conforms } = result;
  const found = allFindings(result);
  const failing = found.filter(isFailing).length;
  const verdict = {
    text: conforms ? "no findings" : `${failing} ${failing === 1 ? "finding" : "findings"}`,
    isGood: conforms,
  };
  const figures = [
    { name: "wrappers", value: wrappers.length },
    { name: "members", value: wrappers.flatMap(({ members }) => members).length },
    { name: "borders", value: borders.length },
    { name: "findings", value: failing, isBad: failing > 0 },
    {
      name: "warnings",
      value: found.filter((match) => match.severity === "warning" && !match.suppressed).length,
    },
    { name: "suppressed", value: found.filter(({ suppressed }) => suppressed !== null).length },
  ];
  const borderList = borders.map(
    ({ package: name, files, findings, holds }) => html`<article>
<h2>border of ${name}: <span class="${holds ? "good" : "bad"}">${holds ? "holds" : "is broken"}</span></h2>
<p class="soft">imported by ${files.join(", ") || "no file"} only</p>
${findings.map((finding) => findingHtml(finding, texts))}
</article>`,
  );
  const others = html`<article><h2>imports without a border</h2>
${imports.map((finding) => findingHtml(finding, texts))}
</article>`;
  const names = html`<article><h2>names in the config</h2>
${config.map((finding) => findingHtml(finding, texts))}
</article>`;
  const files = html`<article><h2>generated files</h2>
${generated.map((finding) => findingHtml(finding, texts))}
</article>`;
  return page(
    "Sleeve check",
    verdict,
    figures,
    html`${wrappers.map((wrapper) => wrapperHtml(wrapper, texts))}${borderList}${imports.length > 0 ? others : undefined}${generated.length > 0 ? files : undefined}${config.length > 0 ? names : undefined}`,
  );
}

function wrapperHtml(
  { wrapper, target, place, members, findings, conforms }: WrapperResult,
  texts: Texts,
): Html {
  const rows = members.map(
    ({
      member,
      place: at,
      findings: wrapperFindings,
    }) => html`<tr><td class="state ${stateOf(wrapperFindings)}">${stateOf(wrapperFindings) === "good" ? "ok" : wrapperFindings.map(({ name }) => name).join(", ")}</td>
<td><code>${member}</code></td><td class="soft">${placeText(at)}</td></tr>
${wrapperFindings.length > 0 ? html`<tr><td></td><td colspan="2">${wrapperFindings.map((ratedFinding) => findingHtml(ratedFinding, texts))}</td></tr>` : undefined}`,
  );
  return html`<article>
<h2><code>${wrapper}</code> to <code>${target}</code>: <span class="${conforms ? "good" : "bad"}">${conforms ? "conforms" : "does not conform"}</span></h2>
<p class="soft">${placeText(place)}</p>
<table>${rows}</table>
${findings.map((finding) => findingHtml(finding, texts))}
</article>`;
}

function stateOf(findings: readonly RatedFinding[]): "good" | "warn" | "bad" {
  if (findings.some(isFailing)) return "bad";
  return findings.length > 0 ? "warn" : "good";
}

function findingHtml(finding: RatedFinding, texts: Texts): Html {
  const { name, place, expected, found, remedy, severity, suppressed } = finding;
  const state = isFailing(finding) ? "bad" : "warn";
  return html`<div>
<b class="${state}">${name}</b> <span class="soft">${placeText(place)}${severity === "warning" ? ", a warning" : ""}</span>
${frame(texts.get(place.file), place)}
<dl><dt>expected</dt><dd>${expected}</dd><dt>found</dt><dd>${found}</dd><dt>remedy</dt><dd>${remedy}</dd>
${suppressed === null ? undefined : html`<dt>suppressed</dt><dd>${suppressed}</dd>`}</dl>
</div>`;
}

function frame(text: string | undefined, place: Place): Html | undefined {
  const code = codeLine(text, place);
  return code && html`<pre>${place.line} | ${code.before}<mark>${code.marked}</mark>${code.after}</pre>`;
}
