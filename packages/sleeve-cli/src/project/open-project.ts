import { type FileChanges, Program } from "../compiler/program.ts";
import type { Problem } from "../errors.ts";
import { type Components, componentsIn, scriptsIn } from "./components/components.ts";
import type { OutsideOptions } from "./packages/outside-imports.ts";
import type { ProjectFolder } from "./project.ts";
import { ProjectSources, type ReadBefore } from "./project-sources.ts";
import { FileRecords } from "./reading/file-records.ts";
import { isSource } from "./reading/read-source.ts";

/** What counts as outside, and how the project is opened. */
export interface OpenOptions extends OutsideOptions {
  /** Whether overlay files will be used. */
  readonly canOverlay?: boolean | undefined;
  /** Initial overlay files; `null` hides a file. */
  readonly files?: ReadonlyMap<string, string | null> | undefined;
}

/** A project open for analysis: the facts from its syntax, and the compiler for everything else. */
export class OpenProject extends ProjectSources {
  readonly program: Program;
  readonly #options: OpenOptions;
  readonly #components: Components | undefined;

  static open({ root, tsconfig, generatedConfig }: ProjectFolder, options: OpenOptions = {}): OpenProject {
    const { canOverlay } = options;
    const components = componentsIn(root);
    const files = new Map([...scriptsIn(components), ...(options.files ?? [])]);
    let records: FileRecords | undefined;
    const onFiles = (paths: readonly string[]) => {
      records = FileRecords.start(paths.filter(isSource), scriptsIn(components));
    };
    const program = Program.open({
      tsconfig,
      generatedConfig,
      canOverlay,
      files: files.size > 0 ? files : undefined,
      onFiles,
    });
    try {
      return new OpenProject(root, program, options, { records, components });
    } catch (error) {
      program.close();
      throw error;
    }
  }

  private constructor(root: string, program: Program, options: OpenOptions, before: ReadBefore) {
    super(root, program, options, before);
    this.program = program;
    this.#components = before.components;
    this.#options = options;
  }

  /**
   * Returns the project after files were changed, created or deleted; the old object must not be used. Only
   * changed files are read again.
   */
  after(changes: FileChanges): OpenProject {
    this.program.update(changes);
    const touched = new Set([...changes.changed, ...changes.created, ...changes.deleted]);
    const sources = new Map(
      this.sources.filter(({ path }) => !touched.has(path)).map((source) => [source.path, source]),
    );
    return new OpenProject(this.root, this.program, this.#options, { sources, components: this.#components });
  }

  /** The current problems; the compiler may fail at a request at any time. */
  override get problems(): readonly Problem[] {
    const [failure, ...others] = this.program.failures();
    if (failure === undefined) return super.problems;
    const more = others.length > 0 ? ` and ${others.length} more` : "";
    return [
      ...super.problems,
      {
        code: "COMPILER_FAILED",
        message: `The compiler failed at a request${more}: ${failure}. The result lacks what it was about. Report the code that causes it.`,
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
