import { CliError } from "../../errors.ts";
import { Lines } from "../../place.ts";
import type { WrapPlace } from "../place.ts";
import type { ReferencedImport } from "../referenced-types.ts";
import { ADAPTED } from "../render/adapter.ts";
import type { MemberLine } from "../render/class.ts";
import type { FileSteps } from "../steps.ts";
import { importLines, UNUSED, unusedImports } from "../verify.ts";

/** How a class is written. */
export interface ClassState {
  /** Whether the class implements its target by a clause. */
  readonly isImplementable: boolean;
  /** Whether the class is not of the target's type, because members are open or the target has private ones. */
  readonly isCast: boolean;
  /** Members that do not compile, with the compiler's errors. */
  readonly failed: ReadonlyMap<string, string>;
}

/** A class of which the members that do not compile are left open. */
export interface ClassWithOpenMembers {
  readonly place: WrapPlace;
  readonly imports: readonly ReferencedImport[];
  readonly isImplementable: boolean;
  /** Members that are open before the class is compiled. */
  readonly open: ReadonlySet<string>;
  /** The class, as an error names it: `adapter of a over b`. */
  readonly label: string;
  readonly write: (state: ClassState) => readonly MemberLine[];
}

/**
 * Compiles a class until all but its open members do.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`
 */
export function* compileMembers({
  place,
  imports: allImports,
  isImplementable: mayImplement,
  open,
  label,
  write,
}: ClassWithOpenMembers): FileSteps<{ readonly text: string; readonly failed: ReadonlyMap<string, string> }> {
  let imports = allImports;
  let isImplementable = mayImplement;
  let isCast = false;
  const failed = new Map<string, string>();
  for (;;) {
    const body = write({ isImplementable, isCast, failed });
    const code = body.map((line) => line.text.replace(COMMENT, "")).join("\n");
    const all = [...importLines(imports, code, place, []), ...body];
    const text = textOf(all);
    const errors = (yield text)();
    const unused = unusedImports(errors, text);
    if (unused.size > 0) {
      imports = imports.filter(({ local }) => !unused.has(local));
      continue;
    }
    const lines = new Lines(text);
    const blamed = new Map<string, string>();
    let ofClass: string | undefined;
    let needsCast = false;
    for (const error of errors) {
      // Until members are completed, they may be the only ones that would use something.
      if (open.size + failed.size > 0 && UNUSED.has(error.code)) continue;
      const { member } = all[lines.at(error.offset).line - 1] ?? {};
      if (member === undefined) ofClass ??= error.text;
      else if (!isCast && (member === ADAPTED || /^Type 'this' is not/.test(error.text))) needsCast = true;
      else if (!open.has(member) && !failed.has(member)) blamed.set(member, error.text);
    }
    if (needsCast) isCast = true;
    else if (blamed.size > 0) for (const [member, why] of blamed) failed.set(member, why);
    else if (ofClass === undefined) return { text, failed };
    else if (isImplementable) isImplementable = false;
    else throw new CliError("DOES_NOT_COMPILE", `No ${label} compiles: ${ofClass} Nothing was written.`);
  }
}

const COMMENT = /^\s*(?:\/\*\*.*\*\/|\/\/.*)$/;

export function textOf(lines: readonly MemberLine[]): string {
  return lines.map(({ text }) => text).join("\n");
}
