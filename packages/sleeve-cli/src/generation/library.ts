import type { Import, Module } from "../emit/module.ts";
import { moduleReferences } from "../emit/printed.ts";
import type { WrapPlace } from "./place.ts";
import { layersName } from "./render/decorator.ts";
import { declarationsOf, standaloneNames } from "./standalone.ts";
import type { ReferencedImport } from "./target/referenced-types.ts";

/** The owner of errors in imports of the library. */
export const LIBRARY = "the library";

/** What generated classes with layers use of `sleeve/generated`. */
const LAYER_EXPORTS = [
  "AccessCheck",
  "AccessRequest",
  "CallLimits",
  "CallLimitsOptions",
  "CallLog",
  "CallLogOptions",
  "CallTimer",
  "CallTimerOptions",
  "CheckLists",
  "OwnFunctions",
  "ResultCache",
  "ResultCacheOptions",
  "Retries",
  "RetriesOptions",
  "ValueCheck",
  "checkLists",
  "notAllowed",
  "observe",
  "requireAllowed",
];

/** Returns what a kind of wrapper can import from the library. */
export function fromLibrary(kind: WrapPlace["kind"]): readonly Import[] {
  const owners = [LIBRARY];
  if (kind === "contract")
    return [{ specifier: "sleeve/conform", name: "contract", local: "contract", owners }];
  if (kind !== "decorator" && kind !== "proxy") return [];
  return LAYER_EXPORTS.map((name) => ({ specifier: "sleeve/generated", name, local: name, owners }));
}

/** Returns the names that imports of types cannot have in a generated file. */
export function takenNames({ kind, className, layers }: WrapPlace): readonly string[] {
  switch (kind) {
    case "decorator":
    case "proxy":
      return [layersName(className), ...LAYER_EXPORTS, ...(layers.isStandalone ? standaloneNames() : [])];
    case "facade":
      return UNDOING;
    case "contract":
      return ["contract"];
    default:
      return [];
  }
}

/** What a facade contains that undoes steps. */
const UNDOING: readonly string[] = ["undoSteps", "undoStepsNow", "undoError"];

/** Returns the imports of types that a file may refer to. */
export function importsIn(
  imports: readonly ReferencedImport[],
  { specifierTo, implementations = [] }: WrapPlace,
): readonly Import[] {
  return [
    ...imports.map(({ name, local, from }) => ({
      name,
      local,
      specifier: "path" in from ? specifierTo(from.path) : from.specifier,
    })),
    ...implementations.map(({ className, specifier }) => ({ name: className, local: className, specifier })),
  ];
}

/** Returns a module that contains what it would import from the library. */
export function standingAlone(module: Module): Module {
  const imports = module.imports.filter(({ owners }) => owners === undefined);
  const copied = declarationsOf(moduleReferences(module).keys());
  return { ...module, imports, declarations: [...module.declarations, ...copied] };
}
