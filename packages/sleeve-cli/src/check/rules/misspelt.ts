import { isPublic } from "../../compiler/symbols.ts";
import { isOptionalMember } from "../../conformance/candidates.ts";

import { isSlip } from "../../nearest-name.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds members whose name is close to an optional one of the target; to the compiler they are unrelated. */
export const misspelt: Rule = (subject) => {
  const { checker, owners, targetMembers, mapping } = subject;
  if (mapping) return [];
  const declaredNames = owners.flatMap(({ type, names }) =>
    checker
      .getPropertiesOfType(type)
      .filter((symbol) => isPublic(symbol) && (names?.has(symbol.name) ?? true)),
  );
  const names = new Set(targetMembers.map(({ name }) => name));
  const absent = targetMembers.filter(
    (member) => isOptionalMember(member) && !declaredNames.some(({ name }) => name === member.name),
  );
  return declaredNames
    .filter(({ name }) => !names.has(name))
    .flatMap((symbol) => {
      const meant = absent.find(({ name }) => isSlip(symbol.name, name));
      if (!meant) return [];
      return [
        ruleFinding(subject, "extra", symbol.name, symbol.valueDeclaration?.resolve(), {
          expected: `${meant.name}, which the target has as optional`,
          found: symbol.name,
          remedy: `Did you mean ${meant.name}?`,
        }),
      ];
    });
};
