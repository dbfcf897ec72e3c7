import ms, { type StringValue } from "ms";

const times: readonly StringValue[] = ["2 days", "1h", "-3m"];
console.log(times.map((time) => ms(time)).join());
console.log(ms(60_000), ms(2 * 3_600_000, { long: true }));
const timeout: number = ms("10s");
console.log(timeout / 1000);
