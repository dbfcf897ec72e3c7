import BigNumber from "bignumber.js";

BigNumber.config({ DECIMAL_PLACES: 4, EXPONENTIAL_AT: 30 });

class Dues {
  #sum: BigNumber = new BigNumber(0);
  add(tons: BigNumber.Value, rate: BigNumber.Value): this {
    this.#sum = this.#sum.plus(new BigNumber(tons).multipliedBy(rate));
    return this;
  }
  get total(): BigNumber {
    return this.#sum;
  }
}

const dues = new Dues().add("10.5", 2).add(3, "7.25");
console.log(dues.total.toFormat(2), dues.total.isGreaterThan(40), BigNumber.max(1, "9").toNumber());
console.log(dues.total.dividedBy(3).decimalPlaces(2, BigNumber.ROUND_DOWN).toString(), BigNumber.isBigNumber(dues.total));
console.log(new BigNumber(Number.NaN).isNaN(), dues.total.negated().abs().eq(dues.total));
