import dayjs, { type Dayjs } from "dayjs";
import utc from "dayjs/plugin/utc.js";
import duration from "dayjs/plugin/duration.js";

dayjs.extend(utc);
dayjs.extend(duration);

interface Window {
  readonly from: Dayjs;
  readonly to: Dayjs;
}

function window(start: string | Dayjs, hours: number): Window {
  const from = dayjs.utc(start);
  return { from, to: from.add(hours, "hour") };
}

const { from, to } = window("2027-03-04T06:00:00Z", 5);
console.log(from.format("YYYY-MM-DD HH:mm"), to.toISOString(), to.diff(from, "minute"));
console.log(to.isAfter(from), from.isBefore("2027-01-01"), dayjs(from).isValid());
console.log(from.startOf("day").hour(), from.month(), dayjs.duration({ hours: 2, minutes: 5 }).format("HH:mm"));
console.log(dayjs.isDayjs(to), from.set("hour", 9).hour(), window(to, 1).to.unix());
