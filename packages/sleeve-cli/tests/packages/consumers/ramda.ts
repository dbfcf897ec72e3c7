import * as R from "ramda";
import { pipe, prop, sortBy } from "ramda";

interface Vessel {
  readonly name: string;
  readonly tons: number;
}

const vessels: Vessel[] = [{ name: "Gannet", tons: 900 }, { name: "Curlew", tons: 400 }];
const names = pipe(sortBy<Vessel>(prop("tons")), R.map(prop("name")));
console.log(names(vessels).join());
console.log(R.sum(R.pluck("tons", vessels)), R.groupBy(({ name }) => name.slice(0, 1), vessels)["C"]?.length);
console.log(R.path(["a", "b"], { a: { b: 3 } }), R.range(1, 4).join(), R.uniq([1, 1, 2]).length);
const change = R.over(R.lensProp<Vessel, "tons">("tons"), R.add(10));
console.log(change(vessels[0] as Vessel).tons, R.equals([1], [1]), R.toUpper("fog"));
console.log(R.clamp(1, 5, 9), R.mergeRight({ a: 1 }, { b: 2 }).b, R.isEmpty({}));
