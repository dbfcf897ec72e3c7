import { compiled, type FileSteps, type OwnedError } from "../../emit/compile.ts";
import type { Module } from "../../emit/module.ts";
import type { Style } from "../../emit/style.ts";
import { CliError } from "../../errors.ts";
import { ADAPTED } from "../render/adapter.ts";
import { isAboutThis } from "../verify.ts";
import { UNUSED } from "./unused.ts";

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
  readonly style: Style;
  readonly isImplementable: boolean;
  /** Members that are open before the class is compiled. */
  readonly open: ReadonlySet<string>;
  /** The class, as an error names it: `adapter of a over b`. */
  readonly label: string;
  readonly moduleOf: (state: ClassState) => Module;
}

/**
 * Compiles a class until all but its open members do.
 *
 * @throws {CliError} `DOES_NOT_COMPILE`
 */
export function* compileMembers({
  style,
  isImplementable,
  open,
  label,
  moduleOf,
}: ClassWithOpenMembers): FileSteps<{
  readonly module: Module;
  readonly failed: ReadonlyMap<string, string>;
}> {
  const { state, module } = yield* compiled<ClassState>({
    style,
    first: { isImplementable, isCast: false, failed: new Map() },
    moduleOf,
    next: (current, errors) => nextState(current, errors, open, label),
  });
  return { module, failed: state.failed };
}

/** Returns how the class is written next; `undefined` if only its open members have errors. */
function nextState(
  state: ClassState,
  errors: readonly OwnedError[],
  open: ReadonlySet<string>,
  label: string,
): ClassState | undefined {
  const { isCast, isImplementable, failed } = state;
  const isOpen = (owner: string) => open.has(owner) || failed.has(owner);
  // Until members are completed, they may be the only ones that would use something.
  const counted = errors.filter(({ code }) => open.size + failed.size === 0 || !UNUSED.has(code));
  const needsCast = counted.some(
    (error) => error.owner === ADAPTED || (error.owner !== undefined && isAboutThis(error)),
  );
  if (needsCast && !isCast) return { ...state, isCast: true };
  const blamed = counted.flatMap(({ owner, text }) =>
    owner === undefined || isOpen(owner) ? [] : [[owner, text] as const],
  );
  if (blamed.length > 0) return { ...state, failed: new Map([...blamed.reverse(), ...failed]) };
  const ofClass = counted.find(({ owner }) => owner === undefined);
  if (!ofClass) return undefined;
  if (isImplementable) return { ...state, isImplementable: false };
  throw new CliError("DOES_NOT_COMPILE", `No ${label} compiles: ${ofClass.text} Nothing was written.`);
}
