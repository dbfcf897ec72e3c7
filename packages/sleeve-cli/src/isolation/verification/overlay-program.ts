import type { Program } from "../../compiler/program.ts";
import { type CompileError, errorsIn, newErrors } from "../../emit/compile-errors.ts";
import { filesReachedFrom } from "../../project/affected-files.ts";
import type { OpenProject } from "../../project/open-project.ts";

/** Compiles a project with proposed files, without writing them. */
export class OverlayProgram {
  /** The project with the files of the last proposal. */
  readonly program: Program;
  readonly #project: OpenProject;
  /** Errors of the project as it is, by path. */
  readonly #existing = new Map<string, readonly CompileError[]>();

  /** The project must have been opened with `canOverlay`. Close the overlay program first. */
  static open(project: OpenProject): OverlayProgram {
    return new OverlayProgram(project);
  }

  private constructor(project: OpenProject) {
    this.program = project.program.view();
    this.#project = project;
  }

  /** The files of the last proposal, by path. */
  get proposed(): ReadonlyMap<string, string> {
    return this.program.proposedFiles();
  }

  /** Proposes files, and returns new errors in those files and in every file that depends on them. */
  errorsWith(files: ReadonlyMap<string, string>): readonly CompileError[] {
    this.program.propose(files);
    return this.newErrorsIn(filesReachedFrom(this.#project, files.keys()));
  }

  /** Proposes files, and returns new errors in some files. */
  errorsWithin(files: ReadonlyMap<string, string>, paths: Iterable<string>): readonly CompileError[] {
    this.program.propose(files);
    return this.newErrorsIn(paths);
  }

  /** The same, in a program in which some files and folders do not exist. */
  errorsWithout(
    isHidden: (path: string) => boolean,
    files: ReadonlyMap<string, string>,
    paths: Iterable<string>,
  ): readonly CompileError[] {
    this.program.proposeWithout(isHidden, files);
    return this.newErrorsIn(paths);
  }

  /** Returns errors in files with the last proposal that the project does not have as it is. */
  newErrorsIn(paths: Iterable<string>): readonly CompileError[] {
    const checked = [...paths];
    const errors = errorsIn(this.program, checked);
    // Only errors need the comparison with the project as it is.
    if (errors.length === 0) return [];
    const withErrors = new Set(errors.map(({ path }) => path));
    const isAnyNew = [...withErrors].some((path) => !this.#project.isOwn(path));
    const unknown = (isAnyNew ? checked : [...withErrors]).filter((path) => !this.#existing.has(path));
    const existing = errorsIn(this.#project.program, unknown);
    for (const path of unknown)
      this.#existing.set(
        path,
        existing.filter((error) => error.path === path),
      );
    const before = checked.flatMap((path) => this.#existing.get(path) ?? []);
    // An existing error of an import is not new in the file that the import moves to.
    const isMoved = ({ path, code, text }: CompileError) =>
      !this.#project.isOwn(path) && before.some((error) => error.code === code && error.text === text);
    return newErrors(before, errors).filter((error) => !isMoved(error));
  }

  [Symbol.dispose](): void {
    this.program.close();
  }
}
