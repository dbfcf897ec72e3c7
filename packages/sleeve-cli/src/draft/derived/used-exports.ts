import type { UsedExport } from "../../isolation/outside/outside-uses.ts";
import type { Field, Shape } from "../../types/derived/shapes/shape.ts";
import { isTypeOnly, obstacleTo } from "../outline/reexports.ts";

/** Returns why the type of an export cannot follow from its uses; `undefined` if it can. */
export function obstacleToUse(exported: UsedExport): string | undefined {
  const { kinds, references } = exported;
  const obstacle = obstacleTo(exported);
  if (obstacle) return obstacle.why;
  if (kinds.has("type query")) return "the type of its value is used";
  if (isTypeOnly(exported)) return undefined;
  return references.length === 0 && kinds.size === 0 ? "it is imported and not used" : undefined;
}

export const FUNCTION_MEMBERS: ReadonlySet<string> = new Set([
  "apply",
  "bind",
  "call",
  "length",
  "name",
  "toString",
]);

export function methodField(shape: Shape, doc?: string): Field {
  return { shape, isOptional: false, isReadonly: false, isMethod: true, doc };
}

export function isReceiver(node: UsedExport["references"][number]["node"]): boolean {
  const { expression } = node.parent as typeof node & { expression?: unknown; name?: unknown };
  return expression === node && "name" in node.parent;
}
