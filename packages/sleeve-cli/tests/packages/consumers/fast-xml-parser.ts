import { XMLBuilder, XMLParser, XMLValidator, type X2jOptions } from "fast-xml-parser";

interface Ledger {
  readonly ledger: { readonly berth: readonly { readonly "@_number": string; readonly vessel: string }[] };
}

const options: X2jOptions = {
  ignoreAttributes: false,
  isArray: (name) => name === "berth",
  tagValueProcessor: (_name, value) => value.trim(),
};

function readLedger(xml: string): Ledger {
  const parser = new XMLParser(options);
  return parser.parse(xml) as Ledger;
}

const xml = '<ledger><berth number="1"><vessel> Curlew </vessel></berth></ledger>';
const { ledger } = readLedger(xml);
for (const berth of ledger.berth) console.log(berth["@_number"], berth.vessel);

const result = XMLValidator.validate("<ledger><berth></ledger>");
if (result !== true) console.log(result.err.code, result.err.line);

const builder = new XMLBuilder({ ignoreAttributes: false, format: true, indentBy: " " });
console.log(builder.build({ notice: { "@_kind": "fog", text: "No entry & no exit" } }));
