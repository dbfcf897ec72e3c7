import Papa from "papaparse";
import type { ParseError, ParseResult } from "papaparse";

interface Tide {
  readonly station: string;
  readonly metres: number;
}

function read(text: string): readonly Tide[] {
  const result: ParseResult<Tide> = Papa.parse<Tide>(text, {
    header: true,
    dynamicTyping: true,
    skipEmptyLines: true,
    transformHeader: (name) => name.trim().toLowerCase(),
  });
  report(result.errors);
  console.log(result.meta.fields?.join("|"), result.meta.delimiter);
  return result.data;
}

function report(errors: readonly ParseError[]): void {
  for (const { code, row } of errors) console.log(code, row);
}

const tides = read("Station,Metres\nquay,3.2\nbar,2.1\nspit\n");
console.log(tides.filter(({ metres }) => metres > 3).map(({ station }) => station).join());
console.log(Papa.unparse([{ station: "quay", metres: 3 }, { station: "bar", metres: 1 }], { delimiter: ";" }));

Papa.parse<string[]>("1,2\n3,4", {
  step: ({ data }) => console.log(data.join("+")),
  complete: () => console.log("done"),
});
