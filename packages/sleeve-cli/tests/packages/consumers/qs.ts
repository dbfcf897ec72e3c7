import * as qs from "qs";
import type { IParseOptions, ParsedQs } from "qs";

const options: IParseOptions = { depth: 3, arrayLimit: 10, ignoreQueryPrefix: true };

function query(text: string): ParsedQs {
  return qs.parse(text, options) as ParsedQs;
}

console.log(JSON.stringify(query("?a[b]=1&c[]=2&c[]=3")));
console.log(qs.stringify({ a: { b: 1 }, c: [2, 3], d: null }, { arrayFormat: "brackets", skipNulls: true, encode: false }));
console.log(qs.stringify({ at: new Date(0) }, { serializeDate: (date) => String(date.getTime()), addQueryPrefix: true }));
