import { Program } from "../compiler/program.ts";
import { filesReachedFrom } from "../project/affected-files.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { ProjectFolder } from "../project/project.ts";
import { type CompileError, errorsIn, newErrors } from "./compile-errors.ts";

/** Compiles a project with proposed files, without writing them. */
export class OverlayProgram {
  readonly program: Program;
  readonly #project: OpenProject;
  readonly #before = new Map<string, readonly CompileError[]>();

  static open(folder: ProjectFolder, project: OpenProject): OverlayProgram {
    const { tsconfig, generatedConfig } = folder;
    return new OverlayProgram(Program.open({ tsconfig, generatedConfig, canOverlay: true }), project);
  }

  private constructor(program: Program, project: OpenProject) {
    this.program = program;
    this.#project = project;
  }

  /** Returns new errors in those files, in new ones, and in every file that depends on them. */
  errorsWith(files: ReadonlyMap<string, string>): readonly CompileError[] {
    const reached = filesReachedFrom(this.#project, files.keys());
    this.program.propose(files);
    const all = errorsIn(this.program, reached);
    if (all.length === 0) return [];
    // Only errors need the comparison with the project as it is.
    const unknown = [...reached].filter((path) => !this.#before.has(path));
    if (unknown.length > 0) {
      this.program.propose(new Map());
      const found = errorsIn(this.program, unknown);
      for (const path of unknown)
        this.#before.set(
          path,
          found.filter((match) => match.path === path),
        );
      this.program.propose(files);
    }
    const before = [...reached].flatMap((path) => this.#before.get(path) ?? []);
    const found = newErrors(before, all);
    // An existing error of an import is not new in the file that the import moves to.
    const isMoved = ({ path, code, text }: CompileError) =>
      !this.#project.isOwn(path) &&
      before.some((compileError) => compileError.code === code && compileError.text === text);
    return found.filter((match) => !isMoved(match));
  }

  [Symbol.dispose](): void {
    this.program.close();
  }
}
