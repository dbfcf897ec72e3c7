import { asTypeName, camelCase } from "../../types/writing/type-text.ts";
import type { DerivedMember } from "./derived-members.ts";

/** Gives each member a name of its own. Members of one declaration, and equal type guards, share it. */
export function withDistinctNames(members: readonly DerivedMember[]): readonly DerivedMember[] {
  const byName = new Map<string, DerivedMember>();
  return members.map((member) => {
    const taken = byName.get(member.name);
    if (!taken || isSame(taken, member)) {
      // A type guard of the module is preferred to one of our own.
      if (!taken || taken.implementation.kind === "guard") byName.set(member.name, member);
      return member;
    }
    const part = member.exported.specifier.split("/").at(-1) ?? "";
    for (let count = 1; ; count++) {
      const suffix = count === 1 ? "" : String(count);
      const name = `${camelCase(part)}${asTypeName(member.name)}${suffix}`;
      if (byName.has(name)) continue;
      byName.set(name, { ...member, name });
      return { ...member, name };
    }
  });
}

function isSame(left: DerivedMember, right: DerivedMember): boolean {
  if (left.field.key !== undefined && left.field.key === right.field.key) return true;
  return isGuard(left) && isGuard(right);
}

function isGuard({ field: { shape } }: DerivedMember): boolean {
  const [signature] = shape.kind === "function" ? shape.signatures : [];
  return signature?.result.kind === "predicate";
}

/** Returns one member for each name. */
export function distinctMembers(members: readonly DerivedMember[]): readonly DerivedMember[] {
  const byName = new Map<string, DerivedMember>();
  for (const member of members) {
    const taken = byName.get(member.name);
    if (!taken || (taken.implementation.kind === "guard" && member.implementation.kind !== "guard"))
      byName.set(member.name, member);
  }
  return [...byName.values()];
}
