import { Decimal } from "decimal.js";

Decimal.set({ precision: 30, rounding: Decimal.ROUND_HALF_EVEN });

interface Fee {
  readonly tons: Decimal;
  readonly rate: Decimal.Value;
}

function total(fees: readonly Fee[]): Decimal {
  return fees.reduce((sum, { tons, rate }) => sum.plus(tons.times(rate)), new Decimal(0));
}

const sum = total([{ tons: new Decimal("10.5"), rate: "2.25" }, { tons: new Decimal(3), rate: 7 }]);
console.log(sum.toString(), sum.toFixed(1), sum.toDecimalPlaces(0).toNumber());
console.log(Decimal.max(1, "2.5", sum).toString(), Decimal.isDecimal(sum));
console.log(sum.gt(40) ? "high" : "low", sum.div(3).toSignificantDigits(5).toString(), sum.isZero());
const Rounded = Decimal.clone({ precision: 3 });
console.log(new Rounded(2).sqrt().toString(), Decimal.sqrt(2).toString());
