import { z } from "zod";
import type { DocumentOf } from "./document.ts";

const outsideSignatureSchema = z.strictObject({
  parameters: z.array(
    z.strictObject({
      name: z.string(),
      type: z.string(),
      optional: z.literal(true).exactOptional(),
      rest: z.literal(true).exactOptional(),
    }),
  ),
  result: z.string(),
});

const outsideMemberSchema = z
  .strictObject({
    kind: z.enum(["function", "class", "interface", "alias", "enumeration", "value", "method", "property"]),
    signatures: z
      .array(outsideSignatureSchema)
      .describe("Overloads of a callable or constructible member; otherwise empty."),
    type: z.string().nullable().describe("Type of a member that is not callable."),
    optional: z.literal(true).exactOptional(),
    readonly: z.literal(true).exactOptional(),
    deprecated: z
      .string()
      .exactOptional()
      .describe("The deprecation message of its declaration; empty if it has none."),
  })
  .meta({ id: "member" });

const outsideExportSchema = outsideMemberSchema
  .extend({
    members: z
      .record(z.string(), outsideMemberSchema)
      .describe("The used members, of instances and of the value itself."),
    names: z.array(z.string()).describe("Names of all members, used or not."),
  })
  .meta({ id: "export" });

const outsideSurfaceSchema = z.strictObject({
  names: z.array(z.string()).describe("Names of all exports, used or not."),
  exports: z.record(z.string(), outsideExportSchema),
});

const recordedModuleSchema = z.strictObject({
  version: z.string().nullable(),
  entries: z.record(z.string(), outsideSurfaceSchema).describe("By import specifier."),
  errors: z
    .array(z.string())
    .exactOptional()
    .describe("Errors of the compiler when the surface was recorded; they are no drift. None if missing."),
});

/** The file `sleeve.surfaces.json`. */
export const surfaceRecordSchema = z
  .strictObject({ modules: z.record(z.string(), recordedModuleSchema) })
  .meta({ title: "The file `sleeve.surfaces.json`, written by `sleeve drift --record`" });

/** The requested exports of an outside module, or of a part of a package. */
export type OutsideSurface = DocumentOf<typeof outsideSurfaceSchema>;

/** An export of an outside module. */
export type OutsideExport = DocumentOf<typeof outsideExportSchema>;

/** A member of an outside export. */
export type OutsideMember = DocumentOf<typeof outsideMemberSchema>;

/** One overload of a member. */
export type OutsideSignature = DocumentOf<typeof outsideSignatureSchema>;

/** The recorded outside surfaces of a project. */
export type SurfaceRecord = DocumentOf<typeof surfaceRecordSchema>;

/** The recorded surface of one module. */
export type RecordedModule = DocumentOf<typeof recordedModuleSchema>;
