import type { Program } from "../compiler/program.ts";

/** An error that the compiler reports. */
export interface CompileError {
  readonly path: string;
  readonly offset: number;
  readonly code: number;
  readonly text: string;
}

/** The errors in some files, as the program sees these now. */
export function errorsIn(program: Program, paths: Iterable<string>): readonly CompileError[] {
  // JSON, and files that the config does not take in, are not compiled.
  const compiled = new Set(program.allFiles());
  const sources = [...paths].filter((path) => compiled.has(path) && /\.[cm]?[jt]sx?$/.test(path));
  return sources.flatMap((path) =>
    program.errorsIn(path).map(({ pos, code, text }) => ({ path, offset: pos, code, text })),
  );
}

/** The errors that were not there before. Places do not count, as edits move what stands behind them. */
export function newErrors(
  before: readonly CompileError[],
  after: readonly CompileError[],
): readonly CompileError[] {
  const known = new Map<string, number>();
  for (const each of before) known.set(keyOf(each), (known.get(keyOf(each)) ?? 0) + 1);
  return after.filter((each) => {
    const left = known.get(keyOf(each)) ?? 0;
    known.set(keyOf(each), left - 1);
    return left <= 0;
  });
}

function keyOf({ path, code, text }: CompileError): string {
  return `${path}\0${code}\0${text}`;
}
