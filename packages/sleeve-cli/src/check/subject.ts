import type { TargetMember } from "../compiler/candidates.ts";
import type { AdapterMapping, Exported } from "../compiler/exported.ts";
import { type Checker, type Node, nameOfDeclaration, type Type } from "../compiler/syntax.ts";
import type { WrapperCode } from "../compiler/wrapper-code.ts";
import type { FindingName } from "../findings.ts";
import type { Place } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { Finding } from "./finding.ts";

/** A wrapper under check, with its target: what every rule looks at. */
export interface Subject {
  readonly project: OpenProject;
  readonly checker: Checker;
  readonly target: Type;
  readonly targetMembers: readonly TargetMember[];
  readonly wrapper: Type;
  readonly exported: Exported;
  readonly mapping: AdapterMapping | undefined;
  readonly code: WrapperCode | undefined;
  /** Whether the wrapper is a facade, as the config or the library says. */
  readonly isFacade: boolean;
  /** Where the wrapper is exported. */
  readonly place: Place;
}

/** One thing that a wrapper is checked for, beyond what its members' types say. */
export type Rule = (subject: Subject) => readonly Finding[];

/** A finding of a rule at a node, or at the wrapper's own place where the node is not one of the project's. */
export function ruleFinding(
  { project, place }: Subject,
  name: FindingName,
  member: string | null,
  node: Node | undefined,
  { expected, found, remedy }: Pick<Finding, "expected" | "found" | "remedy">,
): Finding {
  return { name, member, place: (node && placeOfNode(project, node)) ?? place, expected, found, remedy };
}

/** A node's place, if it stands in one of the project's own files. */
export function placeOfNode(project: OpenProject, node: Node): Place | undefined {
  const path = node.getSourceFile().fileName;
  const source = project.sourceAt(path);
  return source && project.placeOf(source, (nameOfDeclaration(node) ?? node).getStart());
}
