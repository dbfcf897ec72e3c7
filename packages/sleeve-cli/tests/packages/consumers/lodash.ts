import _ from "lodash";
import type { DebouncedFunc } from "lodash";

interface Berth {
  readonly number: number;
  readonly length: number;
  readonly vessel?: { readonly name: string } | undefined;
}

const berths: Berth[] = [
  { number: 1, length: 40, vessel: { name: "Curlew" } },
  { number: 2, length: 90 },
  { number: 3, length: 40 },
];

console.log(_.chunk(berths, 2).length, _.sumBy(berths, "length"), _.get(berths, "[0].vessel.name", "none"));
console.log(Object.keys(_.groupBy(berths, ({ length }) => length)).join());
console.log(_.orderBy(berths, ["length", "number"], ["desc", "asc"]).map(({ number }) => number).join());
const names = _(berths).map("vessel").compact().map("name").value();
console.log(names.join(), _.isEqual({ a: [1] }, { a: [1] }), _.capitalize("fog"));
const merged = _.merge({}, { a: { b: 1 } }, { a: { c: 2 } });
console.log(merged.a.b + merged.a.c, _.omit({ a: 1, b: 2 }, "a").b);
const late: DebouncedFunc<(text: string) => string> = _.debounce((text: string) => text.trim(), 10, { leading: true });
console.log(late(" fog "), late.flush());
console.log(_.uniqBy(berths, "length").length, _.range(3).join(), _.template("<%= a %>")({ a: 1 }));
