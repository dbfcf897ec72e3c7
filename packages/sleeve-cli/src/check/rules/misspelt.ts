import { isOptionalMember } from "../../compiler/candidates.ts";
import { isPublic } from "../../compiler/showing.ts";
import { isSlip } from "../../nearest-name.ts";
import { type Rule, ruleFinding } from "../subject.ts";

/** Members whose name is a slip of an optional one of the target: the compiler takes them for members of their own. */
export const misspelt: Rule = (subject) => {
  const { checker, wrapper, targetMembers, mapping } = subject;
  if (mapping) return [];
  const own = checker.getPropertiesOfType(wrapper).filter(isPublic);
  const names = new Set(targetMembers.map(({ name }) => name));
  const absent = targetMembers.filter(
    (each) => isOptionalMember(each) && !own.some(({ name }) => name === each.name),
  );
  return own
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
