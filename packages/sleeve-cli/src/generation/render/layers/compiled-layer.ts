import type { CallCode, CallSite } from "../call-code.ts";
import type { ChosenMember, MemberLine } from "../class.ts";

/** A layer that watches calls. What it writes throws nothing. */
export interface Watcher {
  readonly begin: readonly string[];
  /** Statements after a call that ended with a value. */
  readonly returned: (result: string) => readonly string[];
  /** Statements with the outcome of a call. */
  readonly ended: (outcome: string) => readonly string[];
  readonly threw: (error: string) => readonly string[];
  /** Makes the call of the subject run within the layer. */
  readonly run?: (call: string) => string;
}

/** A check before a use: statements that throw, and the error as an expression that is `undefined` if it passes. */
export interface UseCheck {
  /** Name of the error. */
  readonly name: string;
  readonly statements: readonly string[];
  readonly error: string;
}

/** The code of one layer in a generated class. */
export interface CompiledLayer {
  /** Its private field, without `#`. */
  readonly field: string;
  readonly fieldType: string;
  /** The type of its option. */
  readonly option: (members: readonly ChosenMember[]) => readonly MemberLine[];
  /** Whether the option may be left out. */
  readonly isOptional: boolean;
  /** Creates the value of the field from the option. */
  readonly create: (option: string) => string;
  /** The parts that it uses, by their names. */
  readonly parts: readonly string[];
  /** What it imports from `sleeve/generated`. */
  readonly imports: readonly string[];
  readonly watch?: (site: CallSite) => Watcher;
  readonly check?: (site: CallSite) => UseCheck | undefined;
  readonly around?: (inner: CallCode, site: CallSite) => CallCode;
  /** Statements before a property is read. */
  readonly read?: (member: ChosenMember) => readonly string[];
  /** Statements before a property is written. */
  readonly write?: (member: ChosenMember, value: string) => readonly string[];
}

/** An option whose type depends on no member. */
export function optionOf(type: string): CompiledLayer["option"] {
  return () => [{ text: type }];
}
