import type { Program } from "../compiler/program.ts";
import { surplusOf } from "../surplus.ts";

/** An error reported by the compiler. */
export interface CompileError {
  readonly path: string;
  readonly offset: number;
  readonly code: number;
  readonly text: string;
}

/** Returns the errors in files, as the program currently sees them. */
export function errorsIn(program: Program, paths: Iterable<string>): readonly CompileError[] {
  // JSON, and files outside the config, are not compiled.
  const compiled = new Set(program.allFiles());
  const sources = [...paths].filter((path) => compiled.has(path) && /\.[cm]?[jt]sx?$/.test(path));
  return sources.flatMap((path) =>
    program.errorsIn(path).map(({ pos, code, text }) => ({ path, offset: pos, code, text })),
  );
}

/** Returns the errors that did not exist before. Offsets do not count, because edits move them. */
export function newErrors(
  before: readonly CompileError[],
  after: readonly CompileError[],
): readonly CompileError[] {
  return surplusOf(after, before.map(keyOf), keyOf);
}

function keyOf({ path, code, text }: CompileError): string {
  return `${path}\0${code}\0${text}`;
}
