import { parse, stringify, TomlDate, TomlError } from "smol-toml";

const document = parse(`
name = "Port Ellery"
opened = 1911-05-04
[tides]
stations = ["quay", "bar"]
`);

const { opened, tides } = document;
if (opened instanceof TomlDate) console.log(opened.isDate(), opened.toISOString());
console.log(JSON.stringify(tides));
console.log(stringify({ berth: { number: 3, free: true } }));

try {
  parse("a = ");
} catch (error) {
  if (error instanceof TomlError) console.log(error.line, error.column);
}
