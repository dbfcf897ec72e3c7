import { isValueSymbol } from "../../compiler/syntax.ts";
import { SymbolFlags } from "../../compiler/typescript.ts";
import type { Place } from "../../documents/place.ts";
import { exportKey, reexportName } from "../../isolation/naming.ts";
import type { OutsideUses, UsedExport } from "../../isolation/outside/outside-uses.ts";
import { comparePlaces } from "../../place.ts";
import type { ReferenceKind } from "../../uses/imported-names.ts";

const IS_TYPE_ONLY: ReadonlySet<ReferenceKind> = new Set(["type", "type query"]);

/** An outside export that the adapter re-exports because it cannot be drafted. */
export interface Reexport {
  readonly key: string;
  readonly specifier: string;
  readonly export: string;
  readonly reexportedAs: string;
  readonly isType: boolean;
  readonly why: string;
  readonly remedy: string;
  readonly places: readonly Place[];
}

/**
 * Returns what can be re-exported completely. Names of a part would be mistaken for names of the module, so
 * the part must be all that is used.
 */
export function reexportedWhole({ whole, exports }: OutsideUses, outside: string): string | undefined {
  const taken = new Set(whole.map(({ specifier }) => specifier));
  if (taken.has(outside)) return outside;
  const specifiers = new Set([...taken, ...exports.map(({ specifier }) => specifier)]);
  const [only] = specifiers;
  return specifiers.size === 1 && taken.size === 1 ? only : undefined;
}

/** Returns the types of a module that is re-exported as itself, which are not re-exported with it. */
export function typesReexported({ exports }: OutsideUses, outside: string): readonly Reexport[] {
  const why = "the module is a function that is used as a whole";
  return exports
    .filter(isTypeOnly)
    .map((exported) => reexportAs(exported, outside, { why, remedy: MANUAL_STEP }));
}

export function reexportAs(
  usedExport: UsedExport,
  outside: string,
  { why, remedy }: { readonly why: string; readonly remedy: string },
): Reexport {
  const { specifier, places } = usedExport;
  // A type in a namespace is reached through the export that it is in.
  const name = baseOf(usedExport.name);
  return {
    key: exportKey(outside, specifier, name),
    specifier,
    export: name,
    reexportedAs: reexportName(outside, specifier, name),
    isType: isTypeOnly(usedExport) && name === usedExport.name,
    why,
    remedy,
    places,
  };
}

export function baseOf(name: string): string {
  return name.split(".")[0] ?? name;
}

/** Returns the re-exports, each once: as a value if any use needs the value. */
export function distinctReexports(reexports: readonly Reexport[]): readonly Reexport[] {
  const byKey = new Map<string, Reexport>();
  for (const reexport of reexports) {
    const earlier = byKey.get(reexport.key);
    if (!earlier) byKey.set(reexport.key, reexport);
    else
      byKey.set(reexport.key, {
        ...earlier,
        isType: earlier.isType && reexport.isType,
        places: [...earlier.places, ...reexport.places].sort(comparePlaces),
      });
  }
  return [...byKey.values()];
}

export const MANUAL_STEP =
  "Add it to the target manually, with types of your own, and convert values in the adapter.";

/** Whether a file re-exports the export, or uses it so that its name must stay. */
export function isReexported({ kinds, references }: UsedExport): boolean {
  if (kinds.has("export")) return true;
  return references.some(({ keepsName }) => keepsName);
}

/** Returns why an export cannot be drafted, from how it is used. */
export function obstacleTo({
  kinds,
  symbol,
  name,
  references,
}: UsedExport): { readonly why: string; readonly remedy: string } | undefined {
  if (kinds.has("extend"))
    return {
      why: "it is extended",
      remedy: `Hold a ${name} in your class instead of extending it, and draft again.`,
    };
  if (kinds.has("write") || references.some(({ node }) => isPatched(node)))
    return {
      why: "it is patched",
      remedy: "Wrap the patched behaviour in the adapter, and remove the patch.",
    };
  if (kinds.has("metadata"))
    return {
      why: "the metadata of a decorated declaration contains it",
      remedy: `Inject ${name} under a token of your own instead of its class, and draft again.`,
    };
  if (kinds.has("jsx"))
    return {
      why: "JSX elements call it",
      remedy: "It stays: the compiler reads the types of elements from it.",
    };
  const isEnum = symbol && (symbol.flags & SymbolFlags.Enum) !== 0;
  if (isEnum && [...kinds].some((kind) => !IS_TYPE_ONLY.has(kind)))
    return {
      why: "it is an enumeration",
      remedy: `Replace ${name} by constants of your own, and convert them in the adapter.`,
    };
  if (!symbol)
    return {
      why: "it has no types",
      remedy: "Install or declare types for it, and draft again.",
    };
  return undefined;
}

/** `Crane.prototype.lift = …`, `Object.assign(Crane.prototype, …)`. */
function isPatched(node: { readonly parent: unknown }): boolean {
  const parent = node.parent as { readonly name?: { readonly text?: string }; readonly expression?: unknown };
  return parent.expression === node && parent.name?.text === "prototype";
}

export function isTypeOnly({ kinds, symbol }: UsedExport): boolean {
  if (symbol && !isValueSymbol(symbol)) return true;
  return kinds.size > 0 && [...kinds].every((kind) => IS_TYPE_ONLY.has(kind));
}
