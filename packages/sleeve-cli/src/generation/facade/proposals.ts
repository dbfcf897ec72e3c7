import type { WrapperFile } from "../../documents/wrap-document.ts";
import { labelOf, type PlannedMember } from "./operation.ts";

type Proposal = NonNullable<WrapperFile["proposals"]>[number];

/** Describes an operation as the output does. */
export function operationProposal([member, planned]: readonly [string, PlannedMember]): Proposal {
  const uses = usesOf(planned);
  return {
    member,
    ...(uses !== undefined && { uses }),
    score: uses === undefined ? 0 : 1,
    why: whyOf(planned),
    candidates: [],
  };
}

function usesOf(planned: PlannedMember): string | undefined {
  switch (planned.kind) {
    case "open":
      return undefined;
    case "property":
      return planned.subsystem.name;
    case "plan":
      if (planned.holes.length > 0) return undefined;
      return planned.steps.map(({ step }) => labelOf(step)).join(", ");
  }
}

/** Says what undoes the steps of an operation, or what is left to the developer. */
function whyOf(planned: PlannedMember): string {
  if (planned.kind === "open") return planned.why;
  if (planned.kind === "property") return "same name";
  const undone = planned.steps.flatMap(({ step, undo }) =>
    undo ? [`${undo.member.name} undoes ${step.member.name}`] : [],
  );
  return (planned.holes.length > 0 ? planned.holes : undone).join("; ");
}
