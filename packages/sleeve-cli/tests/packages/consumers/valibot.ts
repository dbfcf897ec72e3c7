import * as v from "valibot";

const Vessel = v.object({
  name: v.pipe(v.string(), v.minLength(2)),
  draught: v.pipe(v.number(), v.maxValue(12, "too deep")),
  flags: v.optional(v.array(v.string()), []),
});

type Vessel = v.InferOutput<typeof Vessel>;

function show(vessel: Vessel): string {
  return `${vessel.name} ${vessel.draught} ${vessel.flags.length}`;
}

console.log(show(v.parse(Vessel, { name: "Curlew", draught: 4 })));
const result = v.safeParse(Vessel, { name: "G", draught: 20 });
if (!result.success) console.log(result.issues.map(({ message }) => message).join("; "));
try {
  v.parse(v.picklist(["vhf", "lights"]), "flags");
} catch (error) {
  if (error instanceof v.ValiError) console.log(error.issues.length);
}
console.log(v.is(v.string(), 4));
