import {
  type Checker,
  type CompilerSymbol,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../compiler/typescript.ts";
import type { ReferenceKind } from "../uses/imported-names.ts";
import type { UsedMembers } from "../uses/members/used-members.ts";
import type { CopiedTypes } from "./copied-types.ts";
import type { OutsidePath } from "./outside-paths.ts";
import { type CallbackResult, promisify } from "./promisify.ts";
import { type Owner, Uncopiable, type WrittenMember } from "./writing/type-names.ts";
import { asTypeName, docOf, propertyKey, sentParameters } from "./writing/type-text.ts";
import type { TypeWriter } from "./writing/type-writer.ts";

export { Uncopiable } from "./writing/type-names.ts";

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
  /** Members of a whole, or of a value without a type of its own. */
  readonly members?: readonly WrittenMember[] | undefined;
  readonly doc: string | undefined;
  /** Name of the copied type, if the export is used as a type. */
  readonly type: string | undefined;
  /** Why it has the type of the outside value; `undefined` if its type is our own. */
  readonly aliased?: string | undefined;
  /** The promise form of a function with a callback. */
  readonly promisified?: CallbackResult | undefined;
  /**
   * Maximum number of a factory's parameters; `undefined` if it has a rest parameter or several signatures.
   */
  readonly parameters: readonly string[] | undefined;
  /** A factory besides the class, whose constructor accepts instances that the module itself creates. */
  readonly factory?: WrittenFactory | undefined;
  /** Whether the adapter's factory must accept instances that the module itself creates. */
  readonly takesInstances?: boolean | undefined;
}

export interface WrittenFactory {
  /** Source of the method, without its name. */
  readonly text: string;
  readonly parameters: readonly string[] | undefined;
}

export interface ExportToWrite {
  readonly symbol: CompilerSymbol;
  readonly kinds: ReadonlySet<ReferenceKind>;
  /** Name of the member. */
  readonly member: string;
  /** How the value is imported. */
  readonly path: OutsidePath;
  /** Whether a class that is only constructed becomes a factory method. */
  readonly makesFactories: boolean;
  /** Whether it is all that is used of its module, so that the target has its shape. */
  readonly isWhole: boolean;
  /** Why it must have the type of the outside value; `undefined` for a type of our own if possible. */
  readonly aliased: string | undefined;
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

/**
 * Writes the target's member for an outside export: with types of our own or, if that is impossible, with the
 * type of the outside value.
 *
 * @throws {Uncopiable}
 */
export function writeExport(
  checker: Checker,
  copiedTypes: CopiedTypes,
  usedMembers: UsedMembers,
  exported: ExportToWrite,
): WrittenExport {
  const { symbol, kinds, aliased } = exported;
  const isType = (symbol.flags & TYPES) !== 0;
  const isValue = (symbol.flags & SymbolFlags.Value) !== 0;
  const type =
    isType && (kinds.has("type") || kinds.has("export") || !isValue) ? copiedTypes.own(symbol) : undefined;
  // An import that is not used still requires a value.
  const isUsedAsValue = isValue && (kinds.size === 0 || [...kinds].some((kind) => IS_VALUE.has(kind)));
  const doc = docOf(checker, symbol);
  if (!isUsedAsValue) return { form: "type", text: "", doc, type, parameters: undefined };
  const value = checker.getTypeOfSymbol(symbol);
  if (!value || isUntyped(value)) throw new Uncopiable("it has no type");
  const writing = { ...exported, doc, type, value };
  if (aliased !== undefined) return writeAliased(checker, copiedTypes, writing, aliased);
  try {
    return copiedTypes.attempt((writer) => {
      writer.restart();
      return writeOwn(checker, copiedTypes, usedMembers, writer, writing);
    });
  } catch (error) {
    if (!(error instanceof Uncopiable)) throw error;
    return copiedTypes.attempt(() => writeAliased(checker, copiedTypes, writing, error.reason));
  }
}

interface ValueToWrite extends ExportToWrite {
  readonly value: Type;
  readonly doc: string | undefined;
  readonly type: string | undefined;
}

/** Writes a member with the type of the outside value. */
function writeAliased(
  checker: Checker,
  copiedTypes: CopiedTypes,
  { symbol, member, path, isWhole, value, doc, type }: ValueToWrite,
  reason: string,
): WrittenExport {
  const isClass = (symbol.flags & SymbolFlags.Class) !== 0;
  const isFunction = checker.getSignaturesOfType(value, SignatureKind.Call).length > 0;
  const suffix = isFunction ? "Function" : "Object";
  const alias = copiedTypes.ofValue(path, `${asTypeName(member)}${isClass ? "Class" : suffix}`);
  const common = { doc, type, parameters: undefined, aliased: reason };
  if (isWhole) return { ...common, form: "whole", text: alias, members: [] };
  const form = isClass ? "class" : "value";
  return { ...common, form, text: `readonly ${propertyKey(member)}: ${alias}` };
}

function writeOwn(
  checker: Checker,
  copiedTypes: CopiedTypes,
  usedMembers: UsedMembers,
  writer: TypeWriter,
  exported: ValueToWrite,
): WrittenExport {
  const { symbol, member, path, isWhole, value, doc, type } = exported;
  const none = { doc, type, parameters: undefined };
  const name = propertyKey(member);
  const owner = () => copiedTypes.ofValue(path, `Outside${asTypeName(member)}`);
  const constructs = checker.getSignaturesOfType(value, SignatureKind.Construct);
  if (constructs.length > 0 && (symbol.flags & SymbolFlags.Class) !== 0)
    return writeClass(copiedTypes, usedMembers, writer, exported, constructs, owner);
  const writeMembers = () => writer.members(value, "out", owner, symbol);
  const members = isWhole ? writer.inScope([value], "alone", writeMembers) : writeMembers();
  if (isWhole) {
    if (members.length === 0) throw new Uncopiable("none of its members is used by name");
    return { ...none, form: "whole", text: "", members };
  }
  const signatures = checker.getSignaturesOfType(value, SignatureKind.Call);
  const hasMembers = members.some(({ name: memberName }) => memberName !== "()");
  // A function of a named type that is only passed around keeps the name.
  const isNamed = value.getAliasSymbol() !== undefined && usedMembers.calls(symbol).length === 0;
  if (signatures.length > 0 && !hasMembers && !isNamed) {
    const called = usedMembers.called(symbol, signatures);
    const text = writer.overloads(symbol, called, name, "out");
    const [onlyCall] = called;
    const doc = docOf(checker, symbol, called);
    const promisified = onlyCall && called.length === 1 ? promisify(checker, writer, onlyCall) : undefined;
    return { ...none, doc, form: "function", text, promisified };
  }
  const parts = hasMembers && writer.isInline(value) ? members : [];
  const text = parts.length > 0 ? objectText(parts) : valueText(writer, value, owner);
  return { ...none, form: "value", text: `readonly ${name}: ${text}`, members: parts };
}

/** Writes an object type, or its only part. */
function objectText(members: readonly { readonly text: string }[], isAlone = false): string {
  const text = members.map((member) => member.text).join("; ");
  return isAlone ? text : `{ ${text} }`;
}

function valueText(writer: TypeWriter, value: Type, owner: Owner): string {
  return writer.isInline(value) ? writer.inline(value, "out", owner) : writer.write(value, "out");
}

function writeClass(
  copiedTypes: CopiedTypes,
  usedMembers: UsedMembers,
  writer: TypeWriter,
  exported: ValueToWrite,
  constructs: readonly Signature[],
  owner: Owner,
): WrittenExport {
  const { symbol, kinds, member, value, doc, type } = exported;
  const name = propertyKey(member);
  const called = usedMembers.called(symbol, constructs);
  const statics = writer
    .members(value, "out", owner)
    .filter(({ name: memberName }) => memberName !== "new ()");
  const isOnlyConstructed =
    [...kinds].every((kind) => kind === "new" || kind === "type") && statics.length === 0;
  const [firstCall] = called;
  const takesInstances = firstCall !== undefined && writer.takesInstances(firstCall);
  const needsFactory = isOnlyConstructed || (takesInstances && !usedMembers.isRead(symbol));
  const factory =
    exported.makesFactories && needsFactory
      ? factoryOf(writer, called, usedMembers.mostArguments(symbol))
      : undefined;
  if (factory && isOnlyConstructed) {
    const { text, parameters } = factory;
    return { form: "factory", text: `${name}${text}`, doc, type, parameters, takesInstances };
  }
  const signatures = isConstructed(usedMembers, exported) && !factory ? called : [];
  const isAlone = statics.length === 0 && signatures.length < 2;
  const constructors = constructorTexts(copiedTypes, usedMembers, writer, exported, signatures, isAlone);
  const parts = [
    ...constructors.map((text) => ({ name: "new ()", text, doc: undefined, isUsed: true })),
    ...statics,
  ];
  if (parts.length === 0) throw new Uncopiable("none of its members is used by name");
  return {
    form: "class",
    text: `readonly ${name}: ${objectText(parts, isAlone)}`,
    members: isAlone ? [] : parts,
    factory,
    takesInstances,
    // The type describes its instances.
    doc: type === undefined ? doc : undefined,
    type,
    parameters: undefined,
  };
}

/** Whether callers construct a class, or pass it to code that may do so. */
function isConstructed(usedMembers: UsedMembers, { symbol, kinds }: ValueToWrite): boolean {
  if (kinds.has("new")) return true;
  const isPassed = kinds.has("read") || kinds.has("export") || kinds.has("shorthand");
  return isPassed && !usedMembers.isOnlyReceiver(symbol);
}

function constructorTexts(
  copiedTypes: CopiedTypes,
  usedMembers: UsedMembers,
  writer: TypeWriter,
  { symbol, kinds }: ValueToWrite,
  signatures: readonly Signature[],
  isAlone: boolean,
): readonly string[] {
  const arrow = isAlone ? " => " : ": ";
  const most = usedMembers.mostArguments(symbol);
  if (signatures.length > 0)
    return signatures.map((signature) => `new ${writer.signature(signature, "out", arrow, most)}`);
  // Only a constructor stands on the right of `instanceof`.
  if (!kinds.has("instanceof")) return [];
  return [`${isAlone ? "abstract " : ""}new (...args: never)${arrow}${copiedTypes.own(symbol)}`];
}

/** A function that constructs objects of a class with one constructor. */
function factoryOf(
  writer: TypeWriter,
  [signature, ...overloads]: readonly Signature[],
  most: number | undefined,
): WrittenFactory | undefined {
  if (!signature || overloads.length > 0) return undefined;
  const sent = sentParameters(signature, most);
  const hasRest = signature.hasRestParameter && sent.length === signature.getParameters().length;
  return {
    text: writer.signature(signature, "out", ": ", most),
    parameters: hasRest ? undefined : sent.map(({ name }) => name),
  };
}

function isUntyped({ flags }: Type): boolean {
  return (flags & (TypeFlags.Any | TypeFlags.Unknown | TypeFlags.Never)) !== 0;
}
