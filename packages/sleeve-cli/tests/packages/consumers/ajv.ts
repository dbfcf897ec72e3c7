import { Ajv, type ErrorObject, type JSONSchemaType, type ValidateFunction } from "ajv";

interface Tug {
  readonly name: string;
  readonly pull: number;
  readonly crew?: number;
}

const schema: JSONSchemaType<Tug> = {
  type: "object",
  properties: {
    name: { type: "string" },
    pull: { type: "number", minimum: 1 },
    crew: { type: "integer", nullable: true },
  },
  required: ["name", "pull"],
  additionalProperties: false,
};

const ajv = new Ajv({ allErrors: true, strict: true });
ajv.addKeyword({ keyword: "even", type: "number", validate: (_on: boolean, value: number) => value % 2 === 0 });
const isTug: ValidateFunction<Tug> = ajv.compile(schema);

function text(errors: readonly ErrorObject[]): string {
  return errors.map(({ instancePath, keyword }) => `${instancePath || "/"} ${keyword}`).join(", ");
}

const heron: unknown = { name: "Heron", pull: 30 };
if (isTug(heron)) console.log(heron.name, heron.pull + 1);
if (!isTug({ name: 4, colour: "red" })) console.log(text(isTug.errors ?? []));
console.log(ajv.validate({ type: "integer", even: true }, 3), ajv.errorsText(ajv.errors));
