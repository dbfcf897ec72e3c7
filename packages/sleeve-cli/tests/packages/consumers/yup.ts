import { array, type InferType, mixed, number, object, string, ValidationError } from "yup";

const notice = object({
  title: string().required().max(20),
  level: number().integer().min(0).max(3).default(1),
  channel: mixed<"vhf" | "lights">().oneOf(["vhf", "lights"]).required(),
  tags: array(string().required()).default([]),
});

type Notice = InferType<typeof notice>;

function show({ title, level, channel, tags }: Notice): string {
  return `${title} ${level} ${channel} ${tags.length}`;
}

console.log(show(notice.cast({ title: "Fog", channel: "vhf" })));
try {
  await notice.validate({ title: "", level: 9, channel: "flags" }, { abortEarly: false });
} catch (error) {
  if (error instanceof ValidationError) console.log(error.inner.map(({ path }) => path).sort().join());
}
console.log(await notice.isValid({ title: "Rain", channel: "lights" }));
