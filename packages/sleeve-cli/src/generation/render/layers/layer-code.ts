import type { Code } from "../../../emit/code.ts";
import type { CallCode, CallSite } from "../call-code.ts";
import type { ChosenMember } from "../class.ts";

/** A layer that watches calls. What it writes throws nothing. */
export interface WatchCode {
  readonly begin: readonly string[];
  /** Statements after a call that ended with a value. */
  readonly returned: (result: string) => readonly string[];
  /** Statement with the outcome of a call. */
  readonly ended: (outcome: string) => string;
  readonly threw: (error: string) => readonly string[];
  /** Makes the call of the subject run within the layer. */
  readonly run?: (call: string) => string;
}

/** A check before a use: statements that throw, and the error as an expression that is `undefined` if it passes. */
export interface CheckCode {
  /** Name of the error. */
  readonly name: string;
  readonly statements: readonly string[];
  readonly error: string;
}

/** The code of one layer in a generated class. What it calls is exported by `sleeve/generated`. */
export interface LayerCode {
  /** Its private field, without `#`. */
  readonly field: string;
  readonly fieldType: string;
  /** The type of its option. */
  readonly option: (members: readonly ChosenMember[]) => Code;
  /** Whether the option may be left out. */
  readonly isOptional: boolean;
  /** Creates the value of the field from the option. */
  readonly create: (option: string) => string;
  readonly watch?: (site: CallSite) => WatchCode;
  readonly check?: (site: CallSite) => CheckCode | undefined;
  readonly around?: (inner: CallCode, site: CallSite) => CallCode;
  /** Statements before a property is read. */
  readonly read?: (member: ChosenMember) => readonly string[];
  /** Statements before a property is written. */
  readonly write?: (member: ChosenMember, value: string) => readonly string[];
}
