import type { Difference, DifferenceKind } from "../documents/drift-document.ts";
import type {
  OutsideExport,
  OutsideMember,
  OutsideSignature,
  OutsideSurface,
  RecordedModule,
} from "../documents/outside-surface-document.ts";
import { nearestName } from "../nearest-name.ts";

/** Returns the differences between the recorded and the current module, in a stable order. */
export function compareModule(
  recorded: RecordedModule,
  now: Readonly<Record<string, OutsideSurface | undefined>>,
  /** Whether the module has code for a specifier, although it has no types. */
  hasCode: (specifier: string) => boolean,
): readonly Difference[] {
  return Object.entries(recorded.entries).flatMap(([specifier, before]): readonly Difference[] => {
    const after = now[specifier];
    if (!after && hasCode(specifier))
      return [{ kind: "types", subject: specifier, before: "has types", now: "has no types" }];
    if (!after)
      return [
        { kind: "entry point", subject: specifier, before: "resolves to a module", now: "leads nowhere" },
      ];
    return compareSurface(before, after);
  });
}

function compareSurface(before: OutsideSurface, after: OutsideSurface): readonly Difference[] {
  const fresh = after.names.filter((name) => !before.names.includes(name));
  return Object.entries(before.exports).flatMap(([name, old]) => {
    const found = after.exports[name];
    if (!after.names.includes(name) || !found) return [gone(name, name, old, fresh, after.exports)];
    const own = compareMember(name, old, found);
    // A different constructor does not imply different members.
    const isMadeAnew =
      own.some(({ kind }) => kind === "kind") && [old, found].some(({ kind }) => kind === "function");
    return isMadeAnew ? own : [...own, ...compareMembers(name, old, found)];
  });
}

function compareMembers(owner: string, before: OutsideExport, after: OutsideExport): readonly Difference[] {
  const fresh = after.names.filter((name) => !before.names.includes(name));
  return Object.entries(before.members).flatMap(([name, old]) => {
    const found = after.members[name];
    if (!found) return [gone(`${owner}.${name}`, name, old, fresh, after.members)];
    return compareMember(`${owner}.${name}`, old, found);
  });
}

/** Members that are missing, and may have been renamed. */
function gone(
  subject: string,
  name: string,
  old: OutsideMember,
  fresh: readonly string[],
  known: Readonly<Record<string, OutsideMember>>,
): Difference {
  const similar = fresh.filter((name) => known[name] !== undefined && isSimilar(old, known[name]));
  const near = nearestName(name, fresh) ?? wordsInCommon(name, fresh);
  const likelyName = near ?? (similar.length === 1 ? similar[0] : undefined);
  const before = memberText(old);
  if (likelyName === undefined) return { kind: "removed", subject, before, now: "does not exist" };
  const found = known[likelyName];
  return {
    kind: "renamed",
    subject,
    before,
    now: found ? `${likelyName}: ${memberText(found)}` : likelyName,
    likelyName,
  };
}

function wordsInCommon(name: string, names: readonly string[]): string | undefined {
  const words = wordsOf(name);
  const scored = names
    .map((name) => ({ each: name, shared: wordsOf(name).filter((word) => words.includes(word)).length }))
    .filter(({ shared }) => shared > 0)
    .sort((left, right) => right.shared - left.shared);
  const [first, second] = scored;
  return first && first.shared !== second?.shared ? first.each : undefined;
}

function wordsOf(name: string): readonly string[] {
  return name
    .split(/(?=[A-Z])|[^\p{L}\d]+/u)
    .map((word) => word.toLowerCase())
    .filter((word) => word.length > 2);
}

/** Whether two members have equal parameters or values; a rename may have changed the result. */
function isSimilar(left: OutsideMember, right: OutsideMember): boolean {
  const taken = ({ signatures, type }: OutsideMember) =>
    signatures.length > 0
      ? signatures.map(({ parameters }) => parameters.map(parameterText).join(", ")).join("; ")
      : (type ?? "");
  // For interfaces, which have neither, this proves nothing.
  return left.kind === right.kind && taken(left) === taken(right) && taken(left) !== "";
}

function compareMember(subject: string, before: OutsideMember, after: OutsideMember): readonly Difference[] {
  const difference = (kind: DifferenceKind, old: string, now: string): Difference => ({
    kind,
    subject,
    before: old,
    now,
  });
  const deprecated =
    before.deprecated === undefined && after.deprecated !== undefined
      ? [difference("deprecated", "in use", after.deprecated || "deprecated")]
      : [];
  const isCalled = (outsideMember: OutsideMember) => outsideMember.signatures.length > 0;
  const isOtherKind =
    before.kind !== after.kind && !(isCalled(before) && isCalled(after) && !isClassOrFunction(before, after));
  if (isOtherKind)
    return [
      difference(
        "kind",
        `${article(before)}: ${memberText(before)}`,
        `${article(after)}: ${memberText(after)}`,
      ),
      ...deprecated,
    ];
  const flags = [
    ...(!before.optional && after.optional ? [difference("optional", "always there", "may be absent")] : []),
    ...(!before.readonly && after.readonly ? [difference("readonly", "can be written", "read only")] : []),
  ];
  const type =
    before.type !== null && after.type !== null && before.type !== after.type
      ? [difference(isAsync(before.type, after.type) ? "async" : "type", before.type, after.type)]
      : [];
  return [...compareSignatures(before, after, difference), ...type, ...flags, ...deprecated];
}

function isClassOrFunction(before: OutsideMember, after: OutsideMember): boolean {
  return (before.kind === "class") !== (after.kind === "class");
}

function article({ kind }: OutsideMember): string {
  return `${/^[aeiou]/.test(kind) ? "an" : "a"} ${kind}`;
}

function compareSignatures(
  before: OutsideMember,
  after: OutsideMember,
  difference: (kind: DifferenceKind, old: string, now: string) => Difference,
): readonly Difference[] {
  const now = after.signatures.map(signatureText);
  // An overload that still exists works as before.
  const lost = before.signatures.filter((signature) => !now.includes(signatureText(signature)));
  return lost.flatMap((old) => {
    const index = before.signatures.indexOf(old);
    const found = after.signatures[Math.min(index, after.signatures.length - 1)];
    return found ? compareSignature(old, found, difference) : [];
  });
}

function compareSignature(
  before: OutsideSignature,
  after: OutsideSignature,
  difference: (kind: DifferenceKind, old: string, now: string) => Difference,
): readonly Difference[] {
  const found: Difference[] = [];
  const [old, now] = [signatureText(before), signatureText(after)];
  after.parameters.forEach((parameter, index) => {
    const was = before.parameters[index];
    if (!was) found.push(difference("parameter added", old, now));
    else if (was.type !== parameter.type || (was.optional && !parameter.optional))
      found.push(difference("parameter changed", parameterText(was), parameterText(parameter)));
  });
  if (after.parameters.length < before.parameters.length)
    found.push(difference("parameter removed", old, now));
  if (before.result !== after.result)
    found.push(
      difference(isAsync(before.result, after.result) ? "async" : "result", before.result, after.result),
    );
  return found;
}

function isAsync(before: string, after: string): boolean {
  const isPromise = (text: string) => /^Promise(Like)?</.test(text);
  return isPromise(before) !== isPromise(after);
}

function parameterText({ name, type, optional, rest }: OutsideSignature["parameters"][number]): string {
  return `${rest ? "..." : ""}${name}${optional ? "?" : ""}: ${type}`;
}

function signatureText({ parameters, result }: OutsideSignature): string {
  return `(${parameters.map(parameterText).join(", ")}) => ${result}`;
}

function memberText({ signatures, type, kind }: OutsideMember): string {
  if (signatures.length > 0) return signatures.map(signatureText).join("; ");
  return type ?? kind;
}
