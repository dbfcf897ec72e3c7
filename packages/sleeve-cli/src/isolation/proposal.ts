import { Program } from "../compiler/program.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { ProjectFolder } from "../project/project.ts";
import { filesReachedFrom } from "../project/reach.ts";
import { type CompileError, errorsIn, newErrors } from "./compile-errors.ts";

/** Asks the compiler what it would say of a project whose files were others, with nothing written. */
export class Proposals {
  readonly program: Program;
  readonly #project: OpenProject;
  readonly #before = new Map<string, readonly CompileError[]>();

  static open(folder: ProjectFolder, project: OpenProject): Proposals {
    const { tsconfig, madeUp } = folder;
    return new Proposals(Program.open({ tsconfig, madeUp, canPropose: true }), project);
  }

  private constructor(program: Program, project: OpenProject) {
    this.program = program;
    this.#project = project;
  }

  /** The errors that there would be and are not now, in those files, in new ones, and in all that these reach. */
  errorsWith(files: ReadonlyMap<string, string>): readonly CompileError[] {
    const reached = filesReachedFrom(this.#project, files.keys());
    const unknown = [...reached].filter((path) => !this.#before.has(path));
    if (unknown.length > 0) {
      this.program.propose(new Map());
      const found = errorsIn(this.program, unknown);
      for (const path of unknown)
        this.#before.set(
          path,
          found.filter((each) => each.path === path),
        );
    }
    this.program.propose(files);
    const before = [...reached].flatMap((path) => this.#before.get(path) ?? []);
    const found = newErrors(before, errorsIn(this.program, reached));
    // What is wrong in an import today is wrong in a new file into which that is moved.
    const isMoved = ({ path, code, text }: CompileError) =>
      !this.#project.isOwn(path) && before.some((each) => each.code === code && each.text === text);
    return found.filter((each) => !isMoved(each));
  }

  [Symbol.dispose](): void {
    this.program.close();
  }
}
