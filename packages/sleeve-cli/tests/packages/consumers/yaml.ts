import { Document, isMap, isScalar, parse, parseDocument, stringify, YAMLParseError } from "yaml";

interface Station {
  readonly name: string;
  readonly datum: number;
}

const text = `# gauges
stations:
  - name: quay
    datum: 1.2
  - name: bar
    datum: 0.4
`;

const { stations } = parse(text) as { stations: Station[] };
console.log(stations.map(({ name, datum }) => `${name} ${datum}`).join(", "));

const document = parseDocument(text, { keepSourceTokens: false });
document.set("harbour", "Port Ellery");
document.setIn(["stations", 0, "datum"], 1.3);
console.log(document.toString({ lineWidth: 60 }));
console.log(isMap(document.contents), document.has("harbour"), document.getIn(["stations", 1, "name"]));

const fresh = new Document({ tugs: ["Brant", "Heron"] });
fresh.commentBefore = " drafted";
console.log(String(fresh));
const scalar = document.get("harbour", true);
console.log(isScalar(scalar) ? scalar.value : "none");
console.log(stringify({ a: [1, 2], b: null }, { indent: 4, nullStr: "~" }));

try {
  parse("a: [1, 2");
} catch (error) {
  if (error instanceof YAMLParseError) console.log(error.code, error.linePos?.[0].line);
}
