import { accessText, exportKey, RESERVED, valueName } from "../../isolation/naming.ts";
import { isIdentifierName } from "../../types/writing/type-text.ts";
import { EXPORT_ASSIGNMENT } from "../../uses/references.ts";
import type { Outline, OutlineMember } from "../outline/model.ts";

/** What an adapter imports from one module, and under which names. */
export interface AdapterImport {
  readonly specifier: string;
  /** Local name of the default export. */
  readonly standard: string | undefined;
  /** Local name of the namespace. */
  readonly namespace: string | undefined;
  /** Named imports. */
  readonly named: readonly string[];
  /** The exports that need it. */
  readonly keys: readonly string[];
}

/** Chooses the local names of outside exports in the adapter's module, and its imports. */
export class ImportNames {
  readonly imports: readonly AdapterImport[];
  readonly #byKey = new Map<string, string>();

  constructor({ members, object, target, outside, setUpExports = [] }: Outline) {
    const values = [
      ...members.filter(({ form }) => form !== "type"),
      ...setUpExports.map((exported) => setUpValue(exported, outside)),
    ];
    const taken = new Set([object, target, ...members.flatMap(({ reexportedAs }) => reexportedAs ?? [])]);
    const specifiers = [...new Set(values.map(({ specifier }) => specifier))].sort();
    this.imports = specifiers.map((specifier): AdapterImport => {
      const ofSpecifier = values.filter((value) => value.specifier === specifier);
      const standard = ofSpecifier.find((outlineMember) => outlineMember.export === "default");
      const isModule = ofSpecifier.find((outlineMember) => outlineMember.export === EXPORT_ASSIGNMENT);
      const named = ofSpecifier.filter(
        (outlineMember) => outlineMember.export !== standard?.export && outlineMember !== isModule,
      );
      const direct = named.filter(
        (outlineMember) => outlineMember.isImportedByName && isFree(outlineMember.export, taken),
      );
      for (const outlineMember of direct) {
        taken.add(outlineMember.export);
        this.#byKey.set(outlineMember.key, outlineMember.export);
      }
      const unnamed = named.filter((outlineMember) => !direct.includes(outlineMember));
      const needsNamespace = unnamed.length > 0 || isModule !== undefined;
      const namespace = needsNamespace ? this.#nameRest(unnamed, specifier, outside, taken) : undefined;
      if (isModule && namespace !== undefined) this.#byKey.set(isModule.key, namespace);
      return {
        specifier,
        standard: standard && this.#nameStandard(standard, ofSpecifier, outside, taken),
        namespace,
        named: direct.map((outlineMember) => outlineMember.export),
        keys: ofSpecifier.map(({ key }) => key),
      };
    });
  }

  of({ key }: Pick<OutlineMember, "key">): string {
    return this.#byKey.get(key) ?? "undefined";
  }

  #nameStandard(
    { member, specifier, export: name }: ImportedValue,
    ofSpecifier: readonly ImportedValue[],
    outside: string,
    taken: Set<string>,
  ): string {
    const isOpened = ofSpecifier.some(
      ({ export: exported, implementation }) => exported === name && implementation?.property !== undefined,
    );
    const preferredName = isOpened || member === "" ? valueName(specifier) : member;
    const local = isFree(preferredName, taken)
      ? preferredName
      : free(`outside${capitalised(preferredName)}`, taken);
    taken.add(local);
    this.#byKey.set(exportKey(outside, specifier, name), local);
    for (const outlineMember of ofSpecifier)
      if (outlineMember.export === name) this.#byKey.set(outlineMember.key, local);
    return local;
  }

  #nameRest(
    unnamed: readonly ImportedValue[],
    specifier: string,
    outside: string,
    taken: Set<string>,
  ): string {
    const namespace = free(
      specifier === outside ? "outside" : `outside${capitalised(valueName(specifier))}`,
      taken,
    );
    taken.add(namespace);
    for (const item of unnamed) this.#byKey.set(item.key, `${namespace}${accessText(item.export)}`);
    return namespace;
  }
}

/** An export that the adapter imports. */
type ImportedValue = Pick<
  OutlineMember,
  "key" | "specifier" | "export" | "member" | "isImportedByName" | "implementation"
>;

/** An export that only the set-up of the module uses. */
function setUpValue(
  { specifier, name, isImportedByName }: NonNullable<Outline["setUpExports"]>[number],
  outside: string,
): ImportedValue {
  const key = exportKey(outside, specifier, name);
  return { key, specifier, export: name, member: "", isImportedByName };
}

function isFree(name: string, taken: ReadonlySet<string>): boolean {
  return !taken.has(name) && !RESERVED.has(name) && isIdentifierName(name);
}

function free(name: string, taken: ReadonlySet<string>): string {
  for (let count = 1; ; count++) {
    const candidate = count === 1 ? name : `${name}${count}`;
    if (isFree(candidate, taken)) return candidate;
  }
}

function capitalised(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
}
