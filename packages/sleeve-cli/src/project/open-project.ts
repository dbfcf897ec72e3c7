import { type FileChanges, Program } from "../compiler/program.ts";
import type { Problem } from "../errors.ts";
import { FileRecords } from "./file-records.ts";
import type { OutsideOptions } from "./outside-imports.ts";
import type { ProjectFolder } from "./project.ts";
import { isSource, ProjectSources, type ReadBefore } from "./project-sources.ts";

/** What counts as outside, and what the project is opened for. */
export interface OpenOptions extends OutsideOptions {
  /** Whether the compiler is going to be shown files as they would be. */
  readonly canPropose?: boolean | undefined;
  /** Files as the compiler is to see them, whatever is on disk; `null` for one that it is not to see. */
  readonly files?: ReadonlyMap<string, string | null> | undefined;
}

/** A project that is open for analysis: what its syntax tells, and the compiler to ask the rest. */
export class OpenProject extends ProjectSources {
  readonly program: Program;
  readonly #options: OpenOptions;

  static open({ root, tsconfig, madeUp }: ProjectFolder, options: OpenOptions = {}): OpenProject {
    const { canPropose, files } = options;
    let records: FileRecords | undefined;
    const onFiles = (paths: readonly string[]) => {
      records = FileRecords.start(paths.filter(isSource));
    };
    const program = Program.open({ tsconfig, madeUp, canPropose, files, onFiles });
    try {
      return new OpenProject(root, program, options, { records });
    } catch (error) {
      program.close();
      throw error;
    }
  }

  private constructor(root: string, program: Program, options: OpenOptions, before: ReadBefore) {
    super(root, program, options, before);
    this.program = program;
    this.#options = options;
  }

  /**
   * The same project after files have changed, appeared or gone; this one is not to be used any more. Only what has
   * changed is read again.
   */
  after(changes: FileChanges): OpenProject {
    this.program.update(changes);
    const touched = new Set([...changes.changed, ...changes.created, ...changes.deleted]);
    const sources = new Map(
      this.sources.filter(({ path }) => !touched.has(path)).map((each) => [each.path, each]),
    );
    return new OpenProject(this.root, this.program, this.#options, { sources });
  }

  /** Those by now: the compiler may fail at a question. */
  override get problems(): readonly Problem[] {
    const [first, ...others] = this.program.failures();
    if (first === undefined) return super.problems;
    const more = others.length > 0 ? ` and ${others.length} more` : "";
    return [
      ...super.problems,
      {
        code: "COMPILER_FAILED",
        message: `The compiler failed at a question${more}: ${first}. What that was about is left out; report it with the code that is special in this project.`,
      },
    ];
  }

  close(): void {
    this.program.close();
  }

  [Symbol.dispose](): void {
    this.close();
  }
}
