import type { SurfaceDocument as LibrarySurfaceDocument, ValueSchema } from "sleeve/conform";
import { z } from "zod";
import type { AssignableTo, DocumentOf } from "./document.ts";

/** The allowed values of a type: JSON Schema 2020-12 with keywords for values that are not JSON. */
const valueSchema: z.ZodType<ValueSchema> = z
  .lazy(() =>
    z.strictObject({
      type: z.string().exactOptional(),
      const: z.union([z.string(), z.number(), z.boolean()]).exactOptional(),
      anyOf: z.array(valueSchema).exactOptional(),
      items: z.union([valueSchema, z.literal(false)]).exactOptional(),
      prefixItems: z.array(valueSchema).exactOptional(),
      properties: z.record(z.string(), valueSchema).exactOptional(),
      required: z.array(z.string()).exactOptional(),
      additionalProperties: valueSchema.exactOptional(),
      instanceOf: z.string().exactOptional().describe("An instance of a built-in class, such as Date."),
      promise: valueSchema.exactOptional(),
      function: z.literal(true).exactOptional(),
      iterable: valueSchema.exactOptional(),
      asyncIterable: valueSchema.exactOptional(),
      opaque: z
        .string()
        .exactOptional()
        .describe("An object of the named type, without further description."),
      self: z.literal(true).exactOptional().describe("The object that the member belongs to."),
    }),
  )
  .meta({ id: "value", description: "The allowed values of a type." });

const parameterSchema = z
  .strictObject({
    name: z.string(),
    schema: valueSchema,
    optional: z.literal(true).exactOptional(),
    rest: z.literal(true).exactOptional(),
  })
  .meta({ id: "parameter" });

const signatureSchema = z
  .strictObject({ parameters: z.array(parameterSchema), result: valueSchema })
  .meta({ id: "signature" });

const memberSchema = z
  .strictObject({
    kind: z.enum(["method", "property"]),
    optional: z.literal(true).exactOptional(),
    readonly: z.literal(true).exactOptional(),
    doc: z.string().exactOptional().describe("First line of its documentation."),
    signatures: z.array(signatureSchema).exactOptional().describe("For a method, one for each overload."),
    value: valueSchema.exactOptional().describe("For a property, its value."),
  })
  .meta({ id: "member" });

/** What `sleeve surface` prints. */
export const surfaceSchema = z
  .strictObject({ name: z.string(), members: z.record(z.string(), memberSchema) })
  .meta({ title: "Output of `sleeve surface`" });

/** A surface with its signatures. */
export type SurfaceDocument = DocumentOf<typeof surfaceSchema>;

/** A member of a surface. */
export type MemberDocument = DocumentOf<typeof memberSchema>;

/** An overload of a member. */
export type SignatureDocument = DocumentOf<typeof signatureSchema>;

/** A parameter of a signature. */
export type ParameterDocument = DocumentOf<typeof parameterSchema>;

export type { ValueSchema };

/** Fails to compile if the library reads surfaces of another shape. */
export type SurfaceAgrees = AssignableTo<LibrarySurfaceDocument, SurfaceDocument>;
