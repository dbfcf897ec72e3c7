import Joi, { type ObjectSchema, type ValidationErrorItem } from "joi";

interface Booking {
  readonly berth: number;
  readonly vessel: string;
  readonly from: Date;
}

const schema: ObjectSchema<Booking> = Joi.object<Booking>({
  berth: Joi.number().integer().min(1).max(24).required(),
  vessel: Joi.string().trim().min(2).required(),
  from: Joi.date().iso().default(() => new Date(0)),
});

function problems(items: readonly ValidationErrorItem[]): string {
  return items.map(({ path, type }) => `${path.join(".")}: ${type}`).join("; ");
}

const good = schema.validate({ berth: 3, vessel: " Curlew " });
console.log(good.value?.vessel, good.value?.from.toISOString());
const bad = schema.validate({ berth: 99, vessel: "x" }, { abortEarly: false });
console.log(bad.error && problems(bad.error.details));
try {
  Joi.attempt("fog", Joi.string().valid("clear", "rain"));
} catch (error) {
  console.log(Joi.isError(error));
}
const names = Joi.array().items(Joi.string()).unique();
console.log(names.validate(["a", "a"]).error?.message);
