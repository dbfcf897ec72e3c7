import type { z } from "zod";

/** A value that nothing may write to, at any depth. */
type DeepReadonly<Value> = unknown extends Value
  ? Value
  : Value extends string | number | boolean | null | undefined
    ? Value
    : Value extends (infer Item)[]
      ? readonly DeepReadonly<Item>[]
      : { readonly [Key in keyof Value]: DeepReadonly<Value[Key]> };

/** The TypeScript type of a document: what its schema accepts, read-only. */
export type DocumentOf<Schema extends z.ZodType> = DeepReadonly<z.infer<Schema>>;

/** Describes the first problem of a value that a schema rejects, with its path: `implementations[0].name: …`. */
export function issueText({ issues }: z.ZodError): string {
  const [issue] = issues;
  if (!issue) return "it is invalid";
  const path = issue.path
    .map((step) => (typeof step === "number" ? `[${step}]` : `.${String(step)}`))
    .join("");
  return path === "" ? issue.message : `${path.replace(/^\./, "")}: ${issue.message}`;
}

/** Compiles only if `Source` is assignable to `Target`. */
export type AssignableTo<Target, Source extends Target> = Source;
