import { type Checker, type Node, nameOfDeclaration, type Type } from "../compiler/syntax.ts";
import type { TargetMember } from "../conformance/candidates.ts";
import type { AdapterMapping, Exported, InstantiatedTarget } from "../conformance/exported.ts";
import type { MemberOwner } from "../conformance/implementation/found-value.ts";
import type { WrapperCode } from "../conformance/implementation/wrapper-code.ts";
import type { Finding } from "../documents/check-document.ts";
import type { Place } from "../documents/place.ts";
import type { CheckFindingName } from "../findings.ts";

import type { OpenProject } from "../project/open-project.ts";

/** A wrapper being checked, with its target: the input of every rule. */
export interface CheckedWrapper {
  readonly project: OpenProject;
  readonly checker: Checker;
  readonly target: Type;
  /** Type parameters of the wrapper that count as equal to those of the target. */
  readonly paired: InstantiatedTarget["paired"];
  readonly targetMembers: readonly TargetMember[];
  /** The type by which clients hold the wrapper. */
  readonly wrapper: Type;
  /** The expression that was followed to no implementation, if there is one. */
  readonly notFound: Node | undefined;
  /** Where the members of what implements it are. */
  readonly owners: readonly MemberOwner[];
  readonly exported: Exported;
  readonly mapping: AdapterMapping | undefined;
  readonly code: WrapperCode;
  /** Whether the wrapper is a facade, by the config or the library. */
  readonly isFacade: boolean;
  /** Place of the wrapper's export. */
  readonly place: Place;
}

/** One check of a wrapper beyond the comparison of member types. */
export type Rule = (subject: CheckedWrapper) => readonly Finding[];

/** Creates a finding at a node, or at the wrapper's place if the node is outside the project's own files. */
export function ruleFinding(
  { project, place }: CheckedWrapper,
  name: CheckFindingName,
  member: string | null,
  node: Node | undefined,
  { expected, found, remedy }: Pick<Finding, "expected" | "found" | "remedy">,
): Finding {
  return { name, member, place: (node && placeOfNode(project, node)) ?? place, expected, found, remedy };
}

/** Returns the place of a node, if it is in one of the project's own files. */
export function placeOfNode(project: OpenProject, node: Node): Place | undefined {
  const path = node.getSourceFile().fileName;
  const source = project.sourceAt(path);
  return source && project.placeOf(source, (nameOfDeclaration(node) ?? node).getStart());
}
