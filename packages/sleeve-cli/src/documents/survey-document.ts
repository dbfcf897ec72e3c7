import { z } from "zod";
import type { DocumentOf } from "./document.ts";
import { placeSchema, problemLists } from "./place.ts";

const importFormSchema = z.enum([
  "named",
  "default",
  "namespace",
  "type",
  "side effect",
  "require",
  "dynamic",
  "re-export",
  "import type",
  "reference",
  "jsx",
]);

const useKindSchema = z.enum(["call", "new", "extend", "type", "read", "write", "instanceof"]);

const memberUseKindSchema = z.enum([...useKindSchema.options, "import"]);

const dependencySchema = z
  .strictObject({
    declared: z
      .enum(["dependency", "development", "peer", "optional", "transitive", "undeclared"])
      .describe(
        "As declared in the manifest nearest to the importing files; `transitive` if only another package requests it.",
      ),
    requested: z.array(z.string()).describe("Distinct version ranges in the manifests."),
    installed: z.array(z.string()).describe("Distinct versions that importing files resolve to."),
    deprecated: z.string().nullable().describe("The deprecation message in the lockfile."),
  })
  .meta({ id: "dependency" });

const leakSchema = z
  .strictObject({
    export: z.string(),
    place: placeSchema,
    exposes: z.string().describe("Name of the exposed type, or * for everything that a package exports."),
    how: z.enum(["declared", "inferred", "re-exported"]),
  })
  .meta({ id: "leak", description: "An exported declaration that exposes an outside type." });

const memberUseSchema = z
  .strictObject({
    member: z.string(),
    uses: z.int().min(1),
    kinds: z.partialRecord(memberUseKindSchema, z.int().min(1)),
    signatures: z
      .array(z.strictObject({ signature: z.string(), sends: z.string(), uses: z.int().min(1) }))
      .describe("Of its calls: each distinct signature, and each distinct list of argument types."),
    places: z.array(placeSchema),
  })
  .meta({ id: "member" });

const affectedFilesSchema = z
  .strictObject({
    now: z.int().min(0).describe("The importers, their importers, and so on."),
    clients: z
      .int()
      .min(0)
      .nullable()
      .describe(
        "Files that do not import it, and see its types through leaks: those to recheck when only an implementation behind our exports changes. null with --imports.",
      ),
    whenIsolated: z.int().min(0).describe("Only the adapter."),
  })
  .describe("Number of files affected when the package's types change.");

const verdictSchema = z
  .strictObject({
    spread: z
      .int()
      .min(0)
      .describe("Number of files that import or use the package, plus two for each leak."),
    breadth: z.number().describe("Square root of the number of members that the project uses."),
    score: z.number().describe("`spread` times `breadth`."),
  })
  .describe("How much of a package the project knows, and in how many places.");

const packageSchema = z
  .strictObject({
    name: z.string(),
    kind: z.enum(["package", "built-in", "legacy", "global"]),
    version: z.string().nullable(),
    isInstalled: z.boolean(),
    dependency: dependencySchema
      .nullable()
      .describe("Its status in the manifests and the lockfile; null if it is not a package."),
    files: z
      .array(z.string())
      .describe("Files that import it, or use its declarations without importing it."),
    uncompiled: z
      .array(placeSchema)
      .describe(
        "Imports in files that the compiler's config does not include: tests, scripts, config files.",
      ),
    imports: z.array(z.strictObject({ place: placeSchema, forms: z.array(importFormSchema) })),
    members: z.array(memberUseSchema),
    leaks: z.array(leakSchema),
    sameJobAs: z
      .array(
        z.strictObject({
          package: z.string(),
          keywords: z.array(z.string()).describe("Words that the keywords of both manifests have."),
          members: z.array(z.string()).describe("Names of members that the project uses of both."),
        }),
      )
      .describe("Other packages that may do the same job."),
    affectedFiles: affectedFilesSchema,
    verdict: verdictSchema,
  })
  .meta({ id: "package" });

/** What `sleeve survey --json` prints. */
export const surveySchema = z
  .strictObject({
    level: z
      .enum(["members", "imports"])
      .describe("Whether it covers used members or, with --imports, imported names only."),
    files: z.int().min(0).describe("Number of files in the project."),
    unresolved: z.array(placeSchema).describe("Places that import a computed specifier."),
    packages: z.array(packageSchema).describe("Deprecated ones first, then the highest score first."),
    ...problemLists,
  })
  .meta({ title: "Output of `sleeve survey --json`" });

/** The form of an import. `reference` is `/// <reference types>`; `jsx` the implicit import for elements. */
export type ImportForm = DocumentOf<typeof importFormSchema>;

/** How a member is used. */
export type UseKind = DocumentOf<typeof useKindSchema>;

/** How a member is used; for a survey of imports, that it is imported. */
export type MemberUseKind = DocumentOf<typeof memberUseKindSchema>;

/** How a project depends on a package: who requested it, and what is installed. */
export type DependencyStatus = DocumentOf<typeof dependencySchema>;

/** An exported declaration that exposes an outside type. */
export type Leak = DocumentOf<typeof leakSchema>;

/** A used member of a package. */
export type MemberUse = DocumentOf<typeof memberUseSchema>;

/**
 * How much of a package the project knows, and in how many places.
 *
 * `spread` is the number of files that import or use the package, plus two for each leak, because every caller of a
 * leaking export depends on the package too. `breadth` is the square root of the number of members that the project
 * uses, because members come in families. `score` is `spread` times `breadth`: code that knows much of a package in
 * many places is hard to change later.
 */
export type Verdict = DocumentOf<typeof verdictSchema>;

/** The survey of one package. */
export type PackageSurvey = DocumentOf<typeof packageSchema>;

/** A survey of outside code in a project. Lists have a stable order. */
export type Survey = Omit<DocumentOf<typeof surveySchema>, "problems" | "notes">;
