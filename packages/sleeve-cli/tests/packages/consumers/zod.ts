import { z } from "zod";

const vesselSchema = z.object({
  name: z.string().min(2),
  draught: z.number().positive().max(12),
  kind: z.enum(["coaster", "tanker", "yacht"]),
  pilot: z.string().optional(),
});

type Vessel = z.infer<typeof vesselSchema>;

function describe(vessel: Vessel): string {
  return `${vessel.name} ${vessel.draught} ${vessel.kind} ${vessel.pilot ?? "none"}`;
}

console.log(describe(vesselSchema.parse({ name: "Curlew", draught: 4, kind: "coaster" })));
const result = vesselSchema.safeParse({ name: "G", draught: 40, kind: "raft" });
if (!result.success) for (const issue of result.error.issues) console.log(issue.path.join("."), issue.code);

const fleet = z.array(vesselSchema).transform((vessels) => vessels.map(({ name }) => name));
console.log(fleet.parse([{ name: "Heron", draught: 2, kind: "yacht", pilot: "Ines" }]).join());
const berth = z.union([z.literal("outer"), z.number().int()]);
const show = (value: z.output<typeof berth>) => console.log(typeof value);
show(berth.parse("outer"));
try {
  berth.parse(1.5);
} catch (error) {
  if (error instanceof z.ZodError) console.log(error.issues.length);
}
