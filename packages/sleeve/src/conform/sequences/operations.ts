import fc, { type Arbitrary } from "fast-check";
import type { StandardSchema } from "../../layers/core/value-checks.ts";
import { isClass } from "../../surface/member.ts";
import { reflect } from "../../surface/reflect.ts";
import { isSurfaceDocument, type MemberDocument, type SurfaceDocument } from "../surface-document.ts";
import { anything, badContract, valuesOf, valuesOfStandard } from "../values/arbitraries.ts";
import { isObject, type ValueSchema } from "../values/schema.ts";

/** Generators of a member's arguments: one for the whole list, or one for each parameter. */
export type ArgumentsOf = Arbitrary<readonly unknown[]> | readonly (Arbitrary<unknown> | StandardSchema)[];

/** One use of a target by a client. */
export interface Operation {
  readonly use: "call" | "read" | "write";
  /** Key of the member; `undefined` is the target itself, if it is a function. */
  readonly key: string | symbol | undefined;
  readonly label: string;
  readonly args: Arbitrary<readonly unknown[]>;
  /** Whether the arguments are typed. Otherwise they are values of all kinds. */
  readonly isTyped: boolean;
  /** What was learned about untyped arguments. */
  readonly learned?: LearnedArguments;
  /** Maximum number of parameters, as far as the source text of the member shows. */
  readonly arity: number;
  /** Schemas of the result, one for each overload; empty if unknown. */
  readonly results: readonly ValueSchema[];
}

/** What was learned about the arguments of a member that no type describes. */
export interface LearnedArguments {
  /** Arguments of all kinds, also those that the member does not handle. */
  readonly all: Arbitrary<readonly unknown[]>;
  /** For each parameter, the kind of value that the member converts its argument to. */
  readonly converted: readonly ("number" | "string" | undefined)[];
}

/** Sources of operations; the first that describes a member wins. */
export interface OperationSources {
  readonly surface: object | undefined;
  readonly args: Readonly<Record<PropertyKey, ArgumentsOf | undefined>>;
  /** An implementation to learn unknown members from. */
  readonly sample: object;
  /** Keys of the members that are used. Default: all. */
  readonly keys?: ReadonlySet<PropertyKey> | undefined;
}

/**
 * Returns all operations of a target.
 *
 * @throws {SleeveError} BAD_CONTRACT if the arguments of an unknown member are given, or too few for a signature
 */
export function operationsOf({ surface, args, sample, keys }: OperationSources): readonly Operation[] {
  requireMembers(args, surface, sample);
  const document = surface && isSurfaceDocument(surface) ? surface : undefined;
  const usedMembers = membersOf(surface, sample).filter(({ key }) => keys?.has(key) ?? true);
  const members = usedMembers.flatMap(({ key, kind }): readonly Operation[] => {
    const documented = document?.members[String(key)];
    return kind === "property"
      ? propertyOperations(sample, key, documented)
      : [methodOperation(sample, key, documented, Object.hasOwn(args, key) ? args[key] : undefined)];
  });
  if (typeof sample !== "function" || isClass(sample)) return members;
  const ownArguments = args["()"];
  return [
    {
      use: "call",
      key: undefined,
      label: sample.name || "the function",
      args: ownArguments ? givenArguments(ownArguments) : withoutSignature(sample),
      isTyped: ownArguments !== undefined,
      arity: arityOf(sample).most,
      results: [],
    },
    ...members,
  ];
}

type DocumentedMember = Parameters<typeof requireEnough>[2];

function propertyOperations(
  sample: object,
  key: string | symbol,
  documented: DocumentedMember,
): readonly Operation[] {
  const results = documented?.value ? [documented.value] : [];
  const args = fc.constant([]);
  const read = { use: "read", key, label: String(key), args, isTyped: true, arity: 0, results } as const;
  const values = writtenValues(sample, key, documented);
  return values ? [read, { ...read, use: "write", args: fc.tuple(values), results: [] }] : [read];
}

function methodOperation(
  sample: object,
  key: string | symbol,
  documented: DocumentedMember,
  input: ArgumentsOf | undefined,
): Operation {
  const label = String(key);
  requireEnough(label, input, documented);
  const method = documented?.signatures ? undefined : (Reflect.get(sample, key) as unknown);
  return {
    use: "call",
    key,
    label,
    args: input ? givenArguments(input) : (defaultArguments(documented) ?? withoutSignature(method)),
    isTyped: input !== undefined || documented?.signatures !== undefined,
    arity: arityOf(method).most,
    results: documented?.signatures?.map(({ result }) => result) ?? [],
  };
}

/** A misspelt name would leave its arguments unused. */
function requireMembers(args: OperationSources["args"], surface: object | undefined, sample: object): void {
  const memberKeys = new Set<PropertyKey>(["()", ...membersOf(surface, sample).map(({ key }) => key)]);
  const unknown = Reflect.ownKeys(args).find((key) => !memberKeys.has(key) && !(key in sample));
  if (unknown === undefined) return;
  const names = [...memberKeys].map(String).filter((name) => name !== "()");
  throw badContract(
    `The contract has \`arguments\` of ${String(unknown)}, which is no member. Name one of ${names.join(", ")}.`,
  );
}

function requireEnough(
  label: string,
  input: ArgumentsOf | undefined,
  documented: MemberDocument | undefined,
): void {
  if (!Array.isArray(input) || !documented?.signatures) return;
  const needed = documented.signatures.map(
    ({ parameters }) => parameters.filter(({ optional, rest }) => !optional && !rest).length,
  );
  const least = Math.min(...needed);
  if (input.length < least)
    throw badContract(
      `The contract has ${input.length} of the ${least} arguments that ${label} requires. Add an arbitrary for each.`,
    );
}

/**
 * Returns values to write to a property; none if it is read-only. Only accessors show that clients may write;
 * a field may be written by its class alone.
 */
function writtenValues(
  sample: object,
  key: PropertyKey,
  documented: MemberDocument | undefined,
): Arbitrary<unknown> | undefined {
  if (documented) return documented.readonly || !documented.value ? undefined : valuesOf(documented.value);
  const member = reflect(sample).find((member) => member.key === key);
  if (member?.kind !== "accessor" || !member.readable || !member.writable) return undefined;
  const type = typeof Reflect.get(sample, key);
  return /^(string|number|boolean|bigint)$/.test(type) ? valuesOf({ type }) : undefined;
}

interface NamedKind {
  readonly key: string | symbol;
  readonly kind: "method" | "property";
  /** Schemas of results, one for each overload. */
  readonly results: readonly ValueSchema[];
}

/** Returns the members of a surface or, without one, of an object. */
export function membersOf(surface: object | undefined, sample: object): readonly NamedKind[] {
  if (surface && isSurfaceDocument(surface))
    return Object.entries(surface.members)
      .filter(([key, { optional }]) => !optional || key in sample)
      .map(([key, { kind, signatures = [], value }]) => ({
        key,
        kind: knownKind(key, kind),
        results: value ? [value] : signatures.map(({ result }) => result),
      }));
  if (surface)
    return Reflect.ownKeys(surface).map((key) => ({
      key,
      kind: Reflect.get(surface, key) as NamedKind["kind"],
      results: [],
    }));
  return reflect(sample)
    .filter(({ key, label }) => !isHidden(label) && !isFunctionOwnKey(key, sample))
    .map(({ key, kind }) => ({
      key,
      kind: kind === "method" || (kind === "property" && isMethodAt(sample, key)) ? "method" : "property",
      results: [],
    }));
}

function knownKind(member: string, kind: string): NamedKind["kind"] {
  if (kind === "method" || kind === "property") return kind;
  throw badContract(`The surface declares ${member} as a "${kind}". Use "method" or "property".`);
}

/**
 * Members with a leading underscore are private by convention, and not part of a surface read from a live
 * object.
 */
function isHidden(label: string): boolean {
  return label.startsWith("_");
}

/** Own properties that every function has are not part of a surface. */
function isFunctionOwnKey(key: PropertyKey, sample: object): boolean {
  return typeof sample === "function" && (key === "prototype" || key in Function.prototype);
}

function isMethodAt(sample: object, key: PropertyKey): boolean {
  const value: unknown = Reflect.get(sample, key);
  return typeof value === "function" && !isClass(value);
}

function givenArguments(input: ArgumentsOf): Arbitrary<readonly unknown[]> {
  return isArbitrary(input) ? input : fc.tuple(...input.map(arbitraryOf));
}

function arbitraryOf(input: Arbitrary<unknown> | StandardSchema): Arbitrary<unknown> {
  if (isArbitrary(input)) return input;
  if (isObject(input) && "~standard" in input) return valuesOfStandard(input);
  throw badContract(
    "An argument is neither a fast-check arbitrary nor a Standard Schema. Pass one of these.",
  );
}

function isArbitrary(input: unknown): input is Arbitrary<readonly unknown[]> {
  return (
    input instanceof fc.Arbitrary || (isObject(input) && typeof Reflect.get(input, "generate") === "function")
  );
}

function defaultArguments(documented: MemberDocument | undefined): Arbitrary<readonly unknown[]> | undefined {
  if (!documented?.signatures) return undefined;
  return fc.oneof(...documented.signatures.map(({ parameters }) => listOf(parameters)));
}

function listOf(
  parameters: NonNullable<SurfaceDocument["members"][string]["signatures"]>[number]["parameters"],
): Arbitrary<readonly unknown[]> {
  const needed = parameters
    .filter(({ optional, rest }) => !optional && !rest)
    .map(({ schema }) => valuesOf(schema));
  const optional = parameters
    .filter((parameter) => parameter.optional && !parameter.rest)
    .map(({ schema }) => valuesOf(schema));
  const others = parameters.find((parameter) => parameter.rest);
  const lists = Array.from({ length: optional.length + 1 }, (_, count) =>
    fc.tuple(...needed, ...optional.slice(0, count)),
  );
  const list = fc.oneof(...lists);
  if (!others) return list;
  return fc
    .tuple(list, fc.array(valuesOf(others.schema), { maxLength: 3 }))
    .map(([some, more]) => [...some, ...more]);
}

/** Returns as many values of all kinds as the function declares parameters. */
function withoutSignature(method: unknown): Arbitrary<readonly unknown[]> {
  const { least, most } = arityOf(method);
  const lists = Array.from({ length: most - least + 1 }, (_, more) =>
    fc.tuple(...Array.from({ length: least + more }, anything)),
  );
  return fc.oneof(...lists);
}

/**
 * Returns the number of parameters. `length` stops at the first default value, so the source text is used as
 * well. Built-in and bound functions have no such text.
 */
function arityOf(method: unknown): { readonly least: number; readonly most: number } {
  if (typeof method !== "function") return { least: 0, most: 0 };
  const { length } = method;
  const list = /^[^(]*\(([^)]*)\)|^(?:async\s+)?([\w$]+)\s*=>/.exec(Function.prototype.toString.call(method));
  const text = list?.[1] ?? list?.[2] ?? "";
  if (/native code/.test(Function.prototype.toString.call(method))) return { least: length, most: length };
  const most = text.split(",").filter((name) => name.trim() !== "").length + (text.includes("...") ? 2 : 0);
  return { least: length, most: Math.min(Math.max(length, most), length + 3) };
}
