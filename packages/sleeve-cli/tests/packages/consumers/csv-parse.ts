import { type Options, parse } from "csv-parse";
import { CsvError, parse as parseSync } from "csv-parse/sync";

interface Row {
  readonly vessel: string;
  readonly length: number;
}

const text = "vessel;length\nCurlew;42\nGannet;88\n";
const options: Options = { columns: true, delimiter: ";", cast: true, skip_empty_lines: true };

const rows: Row[] = parseSync(text, { columns: true, delimiter: ";", cast: true });
console.log(rows.map(({ vessel, length }) => `${vessel}=${length}`).join(" "));

const parser = parse(options);
parser.on("readable", () => {
  for (let row: Row | null = parser.read(); row !== null; row = parser.read()) console.log(row.vessel, row.length);
});
parser.on("error", (error) => console.log("failed", error.message));
parser.on("end", () => console.log("read", parser.info.lines));
parser.write(text);
parser.end();

try {
  parseSync('a;b\n"1;2', { delimiter: ";" });
} catch (error) {
  if (error instanceof CsvError) console.log(error.code);
}
