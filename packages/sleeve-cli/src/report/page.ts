import { printableLines } from "../printable.ts";

/** HTML text, which is not escaped again. */
export class Html {
  readonly text: string;

  constructor(text: string) {
    this.text = text;
  }
}

/** A template tag for HTML: inserted values are escaped, except HTML and lists of it. */
export function html(parts: TemplateStringsArray, ...values: readonly HtmlValue[]): Html {
  const text = parts.map((part, index) => part + (index < values.length ? htmlText(values[index]) : ""));
  return new Html(text.join(""));
}

type HtmlValue = string | number | Html | readonly Html[] | undefined;

function htmlText(value: HtmlValue): string {
  if (value === undefined) return "";
  if (value instanceof Html) return value.text;
  if (typeof value === "object") return value.map(({ text }) => text).join("");
  return printableLines(String(value)).replace(/[&<>"']/g, (name) => `&#${name.charCodeAt(0)};`);
}

/** A number with its label, at the top of a page. */
export interface Figure {
  readonly name: string;
  readonly value: string | number;
  readonly isBad?: boolean;
}

/** Returns one self-contained page without scripts, in light and dark. */
export function page(
  title: string,
  verdict: { text: string; isGood: boolean },
  figures: readonly Figure[],
  body: Html,
): string {
  const list = figures.map(
    ({ name, value, isBad }) =>
      html`<div class="figure${isBad ? " bad" : ""}"><b>${value}</b><span>${name}</span></div>`,
  );
  return `${
    html`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${title}: ${verdict.text}</title>
<style>${new Html(STYLE)}</style>
</head>
<body>
<header><h1>${title}</h1><p class="verdict ${verdict.isGood ? "good" : "bad"}">${verdict.text}</p></header>
<section class="figures">${list}</section>
${body}
</body>
</html>`.text
  }\n`;
}

const STYLE = `
:root { color-scheme: light dark; --ink: #1c2430; --soft: #5a6675; --paper: #fbfaf7; --card: #ffffff; --line: #d9d5cb; --good: #1d6b45; --bad: #a8321f; --warn: #8a5a00; --mark: #fdecc8; }
@media (prefers-color-scheme: dark) { :root { --ink: #e6e3dc; --soft: #a2a9b3; --paper: #15181d; --card: #1d2127; --line: #353b44; --good: #6fce9c; --bad: #ff8f7a; --warn: #e9b95c; --mark: #4a3a12; } }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 72rem; padding: 1.5rem; background: var(--paper); color: var(--ink); font: 15px/1.5 system-ui, sans-serif; }
header { display: flex; align-items: baseline; gap: 1rem; flex-wrap: wrap; border-bottom: 2px solid var(--line); }
h1 { font-size: 1.5rem; margin: 0; } h2 { font-size: 1.05rem; margin: 0 0 .5rem; }
.verdict { margin: 0; font-weight: 600; } .good { color: var(--good); } .bad, .bad b { color: var(--bad); } .warn { color: var(--warn); }
.figures { display: flex; gap: 1.5rem; flex-wrap: wrap; margin: 1rem 0; }
.figure b { display: block; font-size: 1.6rem; line-height: 1.1; } .figure span { color: var(--soft); }
article { background: var(--card); border: 1px solid var(--line); border-radius: 6px; padding: 1rem; margin: 0 0 1rem; }
table { border-collapse: collapse; width: 100%; } td, th { text-align: left; vertical-align: top; padding: .2rem .8rem .2rem 0; border-top: 1px solid var(--line); }
th { color: var(--soft); font-weight: 500; border-top: 0; } td.state { white-space: nowrap; width: 1%; }
code, pre { font: 13px/1.45 ui-monospace, "DejaVu Sans Mono", monospace; } pre { margin: .3rem 0; padding: .5rem .7rem; background: var(--paper); border: 1px solid var(--line); border-radius: 4px; overflow-x: auto; }
mark { background: var(--mark); color: inherit; } .soft { color: var(--soft); } dl { display: grid; grid-template-columns: max-content 1fr; gap: 0 .8rem; margin: .3rem 0; } dt { color: var(--soft); } dd { margin: 0; overflow-wrap: anywhere; }
`;
