import { addHours, differenceInMinutes, format, formatISO, type Interval, isWithinInterval, parseISO } from "date-fns";
import { de } from "date-fns/locale";
import { eachDayOfInterval, intervalToDuration, max, startOfDay } from "date-fns";

function tide(start: string, hours: number): Interval<Date, Date> {
  const from = parseISO(start);
  return { start: from, end: addHours(from, hours) };
}

const window = tide("2027-03-04T06:00:00", 5);
console.log(differenceInMinutes(window.end, window.start), format(window.start, "yyyy-MM-dd HH:mm"));
console.log(format(window.end, "EEEE d. MMMM", { locale: de, weekStartsOn: 1 }));
console.log(isWithinInterval(parseISO("2027-03-04T07:00:00"), window));
console.log(eachDayOfInterval({ start: new Date(2027, 0, 1), end: new Date(2027, 0, 3) }).length);
console.log(max([window.start, window.end]).getHours(), startOfDay(window.end).getHours());
console.log(JSON.stringify(intervalToDuration(window)), formatISO(window.start, { representation: "date" }));
