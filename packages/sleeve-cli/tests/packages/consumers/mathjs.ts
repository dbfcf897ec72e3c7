import { all, create, type MathJsInstance, type Matrix } from "mathjs";
import { evaluate, matrix, multiply, round, unit } from "mathjs";

const math: MathJsInstance = create(all, { matrix: "Array" });

console.log(math.evaluate("2 + 3 * 4"), evaluate("sqrt(16)"));
const rotation: Matrix = matrix([[0, 1], [1, 0]]);
console.log(multiply(rotation, [3, 4]).toString(), rotation.size().join());
console.log(unit(3, "m").to("cm").toNumber("cm"), round(2.345, 1));
const parser = math.parser();
parser.set("draught", 4);
console.log(parser.evaluate("draught * 2"), math.mean(1, 2, 3), math.format(1 / 3, { precision: 3 }));
