import type { ParameterParts } from "../../types/writing/signature-parts.ts";

/** One way to call a member, as source. */
export interface WrittenSignature {
  /** `<T>(left: T, right?: T): T` */
  readonly text: string;
  readonly isGeneric: boolean;
  /** Its parameters without `this`. */
  readonly parameters: readonly ParameterParts[];
  readonly result: string;
  /** Whether it asserts something of a parameter, and returns nothing. */
  readonly isAssertion: boolean;
  /** Whether the result may be an object of the target's type, and so the subject itself. */
  readonly mayBeTarget: boolean;
  readonly settlement: Settlement;
  /** Names of the parameters, as they are declared. */
  readonly names: readonly string[];
}

/** When a call ends: at once, when its promise settles, or it depends on the result. */
export type Settlement = "value" | "promise" | "any";

/** A member of a target, with the forms in which a generated class can declare it, the best first. */
export interface WrapMember {
  readonly name: string;
  /** The key as it is declared and accessed: `heightAt`, `"content-type"`, `[Symbol.iterator]`. */
  readonly key: string;
  readonly doc: string | undefined;
  readonly isOptional: boolean;
  /** Whether its value is a function. */
  readonly isCalled: boolean;
  readonly forms: readonly MemberForm[];
}

export type MemberForm = MethodForm | PropertyForm;

export interface MethodForm {
  readonly kind: "method";
  readonly signatures: readonly WrittenSignature[];
}

export interface PropertyForm {
  readonly kind: "property";
  /** The type that a read returns. */
  readonly type: string;
  /** The type that a write takes; `undefined` for a member that is only read. */
  readonly written: string | undefined;
  /** Whether it is a method, which is read as a function. */
  readonly isFunction: boolean;
  /** The type that a read is asserted to have, because the compiler does not infer it. */
  readonly assertion: string | undefined;
  /** How its function is called, if it holds one. */
  readonly called: CalledFunction | undefined;
}

export interface CalledFunction {
  readonly settlement: Settlement;
  readonly names: readonly string[];
  /** Its signatures as source, if they are wanted and can be written. */
  readonly signatures: readonly WrittenSignature[];
}

/** A member that cannot be generated. */
export interface RefusedMember {
  readonly name: string;
  readonly reason: string;
}

export interface TargetMembers {
  readonly members: readonly WrapMember[];
  readonly refused: readonly RefusedMember[];
}
