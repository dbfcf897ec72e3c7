import {
  type Checker,
  type CompilerSymbol,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { ReferenceKind } from "../uses/references.ts";
import type { UsedMembers } from "../uses/used-members.ts";
import type { CopiedTypes } from "./copied-types.ts";
import { type CallbackResult, promisify } from "./promisify.ts";
import { Uncopiable, type WrittenMember } from "./type-names.ts";
import { docOf, propertyKey, sentParameters } from "./type-text.ts";

export { Uncopiable } from "./type-names.ts";

/** The member of a target that replaces an outside export. */
export interface WrittenExport {
  /**
   * `function` is a method; `factory`, a method that creates what the project constructed; `class`, a
   * property that is constructed or used with `instanceof`; `value`, another property; `type`, no member;
   * `whole`, the entire target.
   */
  readonly form: "function" | "factory" | "class" | "value" | "type" | "whole";
  /** Source of the target's member, one overload per line; empty for a type and a whole. */
  readonly text: string;
  /** Members of a whole. */
  readonly members?: readonly WrittenMember[] | undefined;
  readonly doc: string | undefined;
  /** Name of the copied type, if the export is used as a type. */
  readonly type: string | undefined;
  /** The promise form of a function with a callback. */
  readonly promisified?: CallbackResult | undefined;
  /**
   * Maximum number of a factory's parameters; `undefined` if it has a rest parameter or several signatures.
   */
  readonly parameters: readonly string[] | undefined;
}

export interface ExportToWrite {
  readonly symbol: CompilerSymbol;
  readonly kinds: ReadonlySet<ReferenceKind>;
  /** Name of the member. */
  readonly member: string;
  /** Whether a class that is only constructed becomes a factory method. */
  readonly makesFactories: boolean;
  /** Whether it is all that is used of its module, so that the target has its shape. */
  readonly isWhole: boolean;
}

const TYPES = SymbolFlags.Interface | SymbolFlags.TypeAlias | SymbolFlags.Class;
const IS_VALUE: ReadonlySet<ReferenceKind> = new Set([
  "call",
  "read",
  "instanceof",
  "new",
  "shorthand",
  "export",
  "type query",
]);

/** Writes the target's member for an outside export. @throws {Uncopiable} */
export function writeExport(
  checker: Checker,
  own: CopiedTypes,
  used: UsedMembers,
  { symbol, kinds, member, makesFactories, isWhole }: ExportToWrite,
): WrittenExport {
  const isType = (symbol.flags & TYPES) !== 0;
  const isValue = (symbol.flags & SymbolFlags.Value) !== 0;
  if ((symbol.flags & SymbolFlags.Enum) !== 0) throw new Uncopiable("an enumeration is a type of its own");
  return own.attempt((writer): WrittenExport => {
    writer.restart();
    const type =
      isType && (kinds.has("type") || kinds.has("export") || !isValue) ? own.own(symbol) : undefined;
    // An import that is not used still requires a value.
    const isUsedAsValue = isValue && (kinds.size === 0 || [...kinds].some((kind) => IS_VALUE.has(kind)));
    const doc = docOf(checker, symbol);
    const none = { doc, type, parameters: undefined };
    if (!isUsedAsValue) return { ...none, form: "type", text: "" };
    const value = checker.getTypeOfSymbol(symbol);
    if (!value || isUntyped(value)) throw new Uncopiable("it has no type");
    const name = propertyKey(member);
    const constructs = checker.getSignaturesOfType(value, SignatureKind.Construct);
    if (constructs.length > 0 && (symbol.flags & SymbolFlags.Class) !== 0) {
      const called = used.called(symbol, constructs);
      const most = used.mostArguments(symbol);
      const statics = writer.members(value, "out").filter(({ name: each }) => each !== "new ()");
      const [only] = called;
      const isMade = [...kinds].every((kind) => kind === "new" || kind === "type") && statics.length === 0;
      if (makesFactories && isMade && only && called.length === 1) {
        const sent = sentParameters(only, most);
        const hasRest = only.hasRestParameter && sent.length === only.getParameters().length;
        const names = hasRest ? undefined : sent.map((argument) => argument.name);
        return {
          ...none,
          form: "factory",
          text: `${name}${writer.signature(only, "out", ": ", most)}`,
          parameters: names,
        };
      }
      const signatures =
        kinds.has("new") || kinds.has("read") || kinds.has("export") || kinds.has("shorthand") ? called : [];
      const constructors =
        signatures.length === 0 ? [`abstract new (...args: never) => ${own.own(symbol)}`] : [];
      const arrow = signatures.length + statics.length === 1 ? " => " : ": ";
      const made = signatures.map((signature) => `new ${writer.signature(signature, "out", arrow, most)}`);
      const parts = [...made, ...statics.map(({ text }) => text)];
      if (constructors.length > 0 && parts.length > 0)
        throw new Uncopiable("it is used with instanceof, and has static members");
      const text = constructors[0] ?? (arrow === " => " ? parts.join("") : `{ ${parts.join("; ")} }`);
      // The type describes its instances.
      return {
        ...none,
        doc: type === undefined ? doc : undefined,
        form: "class",
        text: `readonly ${name}: ${text}`,
      };
    }
    if (isWhole) {
      const members = writer.members(value, "out");
      if (members.length === 0) throw new Uncopiable("none of its members is used by name");
      return { ...none, form: "whole", text: "", members };
    }
    const signatures = checker.getSignaturesOfType(value, SignatureKind.Call);
    const hasMembers = writer.members(value, "out").some(({ name: each }) => each !== "()");
    if (signatures.length > 0 && !hasMembers) {
      const called = used.called(symbol, signatures);
      const text = writer.overloads(symbol, called, name, "out");
      const [only] = called;
      const promisified = only && called.length === 1 ? promisify(checker, writer, only) : undefined;
      return { ...none, form: "function", text, promisified };
    }
    return { ...none, form: "value", text: `readonly ${name}: ${writer.write(value, "out")}` };
  });
}

function isUntyped({ flags }: Type): boolean {
  return (flags & (TypeFlags.Any | TypeFlags.Unknown | TypeFlags.Never)) !== 0;
}
