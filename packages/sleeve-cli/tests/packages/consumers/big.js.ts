import Big from "big.js";
import type { BigSource } from "big.js";

Big.DP = 4;

function dues(tons: BigSource, rate: BigSource): Big {
  return new Big(tons).times(rate).round(2, Big.roundHalfUp);
}

const due = dues("12.345", 3);
console.log(due.toString(), due.toFixed(1), Big(2).div(3).toString());
console.log(due.cmp(37), due.eq("37.04"), due.minus(7).abs().toNumber(), due.s);
try {
  new Big("fog");
} catch (error) {
  console.log((error as Error).message);
}
