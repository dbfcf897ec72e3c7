import { accessText, isWord, RESERVED, valueName } from "../isolation/naming.ts";
import type { Outline, OutlineMember } from "./outline.ts";

/** What an adapter imports of one module, and by which names. */
export interface AdapterImport {
  readonly specifier: string;
  /** The name of its default export. */
  readonly standard: string | undefined;
  /** The name of all of it. */
  readonly namespace: string | undefined;
  /** What is imported by the names that it has. */
  readonly named: readonly string[];
  /** The exports that it is there for. */
  readonly keys: readonly string[];
}

/** What the adapter's module calls the outside exports, and what it imports for them. */
export class ImportNames {
  readonly imports: readonly AdapterImport[];
  readonly #byKey = new Map<string, string>();

  constructor({ members, object, outside }: Outline) {
    const values = members.filter(({ form }) => form !== "type");
    const taken = new Set([object, ...members.flatMap(({ handed }) => handed ?? [])]);
    const specifiers = [...new Set(values.map(({ specifier }) => specifier))].sort();
    this.imports = specifiers.map((specifier): AdapterImport => {
      const own = values.filter((each) => each.specifier === specifier);
      const standard = own.find((each) => each.export === "default");
      const named = own.filter((each) => each !== standard);
      const direct = named.filter((each) => each.isImportedByName && isFree(each.export, taken));
      for (const each of direct) {
        taken.add(each.export);
        this.#byKey.set(each.key, each.export);
      }
      const rest = named.filter((each) => !direct.includes(each));
      return {
        specifier,
        standard: standard && this.#nameStandard(standard, taken),
        namespace: rest.length > 0 ? this.#nameRest(rest, specifier, outside, taken) : undefined,
        named: direct.map((each) => each.export),
        keys: own.map(({ key }) => key),
      };
    });
  }

  of({ key }: Pick<OutlineMember, "key">): string {
    return this.#byKey.get(key) ?? "undefined";
  }

  #nameStandard({ key, member, specifier }: OutlineMember, taken: Set<string>): string {
    const wanted = member || valueName(specifier);
    const name = isFree(wanted, taken) ? wanted : free(`outside${capitalised(wanted)}`, taken);
    taken.add(name);
    this.#byKey.set(key, name);
    return name;
  }

  #nameRest(rest: readonly OutlineMember[], specifier: string, outside: string, taken: Set<string>): string {
    const namespace = free(
      specifier === outside ? "outside" : `outside${capitalised(valueName(specifier))}`,
      taken,
    );
    taken.add(namespace);
    for (const each of rest) this.#byKey.set(each.key, `${namespace}${accessText(each.export)}`);
    return namespace;
  }
}

function isFree(name: string, taken: ReadonlySet<string>): boolean {
  return !taken.has(name) && !RESERVED.has(name) && isWord(name);
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
