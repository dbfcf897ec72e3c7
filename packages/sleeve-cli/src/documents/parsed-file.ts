import { readFileSync } from "node:fs";
import type { z } from "zod";
import type { CliError } from "../errors.ts";
import { type DocumentOf, issueText } from "./document.ts";

/**
 * Reads a JSON file and validates it against a schema.
 *
 * @param broken creates the error for a file that is not JSON, or not as the schema says
 */
export function parsedFile<Schema extends z.ZodType>(
  schema: Schema,
  path: string,
  broken: (reason: string) => CliError,
): DocumentOf<Schema> {
  let read: unknown;
  try {
    read = JSON.parse(readFileSync(path, "utf8"));
  } catch (error) {
    throw broken((error as Error).message);
  }
  const { data, error } = schema.safeParse(read);
  if (error) throw broken(issueText(error));
  // A validated document is only read, so its type is the read-only one.
  return data as DocumentOf<Schema>;
}
