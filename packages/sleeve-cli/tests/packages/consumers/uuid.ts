import { NIL, parse, stringify, v4, v5, validate, version } from "uuid";
import { v7 as timed } from "uuid";

const office = v5("port-ellery", v5.URL);
console.log(office, version(office), validate(office));
console.log(v4({ random: new Uint8Array(16).fill(7) }));
console.log(stringify(parse(office)) === office, NIL.length);
console.log(timed({ msecs: 0, seq: 1, random: new Uint8Array(16) }), validate("fog"));
const names = ["quay", "bar"].map((name) => v5(name, office));
console.log(new Set(names).size);
