import moment, { type Moment } from "moment";

interface Turn {
  readonly at: Moment;
}

function turn(input: string | Moment): Turn {
  return { at: moment.utc(input) };
}

const first = turn("2027-03-04T06:00:00Z");
const second = turn(first.at.clone().add(6, "hours"));
console.log(first.at.format("HH:mm"), second.at.diff(first.at, "minutes"), second.at.isAfter(first.at));
console.log(moment.duration(90, "minutes").asHours(), moment("2027-99", "YYYY-MM", true).isValid());
console.log(first.at.startOf("month").date(), moment.isMoment(second.at), second.at.toISOString());
