import sums = require("@port-ellery/tide-sums");

// The oldest file of the office.
const station = sums.loadStation("PE-1");

export function turnsOn(day: Date) {
  const from = sums.toMinute(day);
  return sums.turnsBetween(station, from, from + 1440);
}
