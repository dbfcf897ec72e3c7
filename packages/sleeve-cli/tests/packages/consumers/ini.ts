import { parse, stringify } from "ini";
import * as ini from "ini";

const text = "; office\nname = Port Ellery\n[tides]\nstation = quay\ndatum = 1.2\n";
const config = parse(text);
console.log(config["name"], config["tides"].station);
config["tides"].datum = "1.3";
console.log(stringify(config, { whitespace: true }).trim());
console.log(stringify({ a: 1 }, { section: "part" }).trim());
console.log(ini.safe("with;semicolon"), ini.unsafe('"quoted"'));
