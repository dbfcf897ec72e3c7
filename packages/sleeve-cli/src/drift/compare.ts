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
    const exported = after.exports[name];
    if (!after.names.includes(name) || !exported) return [gone(name, name, old, fresh, after.exports)];
    const changes = compareMember(name, old, exported);
    // A different constructor does not imply different members.
    const isMadeAnew =
      changes.some(({ kind }) => kind === "kind") && [old, exported].some(({ kind }) => kind === "function");
    return isMadeAnew ? changes : [...changes, ...compareMembers(name, old, exported)];
  });
}

function compareMembers(owner: string, before: OutsideExport, after: OutsideExport): readonly Difference[] {
  const fresh = after.names.filter((name) => !before.names.includes(name));
  return Object.entries(before.members).flatMap(([name, old]) => {
    const member = after.members[name];
    if (!member) return [gone(`${owner}.${name}`, name, old, fresh, after.members)];
    return compareMember(`${owner}.${name}`, old, member);
  });
}

/** Members that are missing, and may have been renamed. */
function gone(
  subject: string,
  name: string,
  old: OutsideMember,
  fresh: readonly string[],
  candidates: Readonly<Record<string, OutsideMember>>,
): Difference {
  const similar = fresh.filter((name) => candidates[name] !== undefined && isSimilar(old, candidates[name]));
  const near = nearestName(name, fresh) ?? wordsInCommon(name, fresh);
  const likelyName = near ?? (similar.length === 1 ? similar[0] : undefined);
  const before = memberText(old);
  if (likelyName === undefined) return { kind: "removed", subject, before, now: "does not exist" };
  const likely = candidates[likelyName];
  return {
    kind: "renamed",
    subject,
    before,
    now: likely ? `${likelyName}: ${memberText(likely)}` : likelyName,
    likelyName,
  };
}

function wordsInCommon(name: string, names: readonly string[]): string | undefined {
  const words = wordsOf(name);
  const scored = names
    .map((name) => ({ each: name, shared: wordsOf(name).filter((word) => words.includes(word)).length }))
    .filter(({ shared }) => shared > 0)
    .sort((left, right) => right.shared - left.shared);
  const [best, second] = scored;
  return best && best.shared !== second?.shared ? best.each : undefined;
}

function wordsOf(name: string): readonly string[] {
  return name
    .split(/(?=[A-Z])|[^\p{L}\d]+/u)
    .map((word) => word.toLowerCase())
    .filter((word) => word.length > 2);
}

/** Whether two members have equal parameters or values; a rename may have changed the result. */
function isSimilar(before: OutsideMember, right: OutsideMember): boolean {
  const taken = ({ signatures, type }: OutsideMember) =>
    signatures.length > 0
      ? signatures.map(({ parameters }) => parameters.map(parameterText).join(", ")).join("; ")
      : (type ?? "");
  // For interfaces, which have neither, this proves nothing.
  return before.kind === right.kind && taken(before) === taken(right) && taken(before) !== "";
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
  if (isOtherKind(before, after))
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

/** Whether a member became something else. Functions and values with signatures are called alike. */
function isOtherKind(before: OutsideMember, after: OutsideMember): boolean {
  if (before.kind === after.kind) return false;
  const areCalled = before.signatures.length > 0 && after.signatures.length > 0;
  return !areCalled || isClassOrFunction(before, after);
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
    const signature = after.signatures[Math.min(index, after.signatures.length - 1)];
    return signature ? compareSignature(old, signature, difference) : [];
  });
}

function compareSignature(
  before: OutsideSignature,
  after: OutsideSignature,
  difference: (kind: DifferenceKind, old: string, now: string) => Difference,
): readonly Difference[] {
  const differences: Difference[] = [];
  const [old, now] = [signatureText(before), signatureText(after)];
  after.parameters.forEach((parameter, index) => {
    const was = before.parameters[index];
    if (!was) differences.push(difference("parameter added", old, now));
    else if (was.type !== parameter.type || (was.optional && !parameter.optional))
      differences.push(difference("parameter changed", parameterText(was), parameterText(parameter)));
  });
  if (after.parameters.length < before.parameters.length)
    differences.push(difference("parameter removed", old, now));
  if (before.result !== after.result)
    differences.push(
      difference(isAsync(before.result, after.result) ? "async" : "result", before.result, after.result),
    );
  return differences;
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
