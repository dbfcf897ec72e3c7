import { SleeveError } from "../shared/errors.ts";
import type { Member } from "../surface/member.ts";
import type { Layer } from "./call.ts";

/** A subject may lack an optional member of a layer. A subject that lacks all of them is a mistake. */
export function requireLayeredMembers(
  members: ReadonlyMap<PropertyKey, { readonly member: Member }>,
  layers: readonly Layer<never>[],
  { areSecret = false }: { readonly areSecret?: boolean } = {},
): void {
  for (const { name, only } of layers) {
    if (!only || only.some((key) => members.has(key))) continue;
    const labels = [...members.values()].map(({ member }) => member.label).join(", ");
    const memberList = areSecret ? "" : ` Its members: ${labels || "none"}.`;
    throw new SleeveError(
      "NO_SUCH_MEMBER",
      `The layer "${name}" is restricted to ${only.map((key) => `"${String(key)}"`).join(", ")}, which the ` +
        `subject does not have.${memberList} Correct the layer's \`only\`.`,
    );
  }
}
