import { array, assert, coerce, create, defaulted, type Infer, is, number, object, optional, refine, string, StructError } from "superstruct";

const Depth = refine(number(), "depth", (value) => value > 0 || "must be positive");
const Berth = object({
  number: number(),
  depth: Depth,
  vessel: optional(string()),
  note: defaulted(string(), "none"),
});

type Berth = Infer<typeof Berth>;

const Trimmed = coerce(string(), string(), (text) => text.trim());

function show(berth: Berth): string {
  return `${berth.number} ${berth.depth} ${berth.vessel ?? "free"} ${berth.note}`;
}

console.log(show(create({ number: 3, depth: 9 }, Berth)));
console.log(create("  fog ", Trimmed), is([1, 2], array(number())));
try {
  assert({ number: 1, depth: -1, note: "" }, Berth);
} catch (error) {
  if (error instanceof StructError) console.log(error.path.join("."), error.failures().length);
}
