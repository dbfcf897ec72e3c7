import { DateTime, Duration, Interval, Settings } from "luxon";

Settings.defaultZone = "utc";

interface Tide {
  readonly at: DateTime;
  readonly metres: number;
}

function next(tides: readonly Tide[], after: DateTime): Tide | undefined {
  return tides.find(({ at }) => at > after);
}

const start = DateTime.fromISO("2027-03-04T06:00:00", { zone: "utc" });
const tides = [{ at: start, metres: 3 }, { at: start.plus({ hours: 6, minutes: 12 }), metres: 1 }];
console.log(next(tides, start)?.at.toFormat("HH:mm"), start.toISO());
const span = Interval.fromDateTimes(start, start.plus(Duration.fromObject({ days: 1 })));
console.log(span.length("hours"), span.contains(start.plus({ hours: 3 })));
console.log(start.diff(DateTime.utc(2027, 1, 1), "days").days, start.weekday, start.setLocale("de").monthLong);
console.log(DateTime.fromISO("fog").isValid, DateTime.fromISO("fog").invalidReason);
