import type { Node } from "../compiler/typescript.ts";
import type { Binding, Reference } from "../uses/imported-names.ts";
import { accessText } from "./naming.ts";
import { type Destination, isRewritable, openedMember, type Replacement } from "./replacement.ts";
import type { TextEdit } from "./text-edits.ts";

export function freeName(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  const ported = `${name}Port`;
  for (let count = 1; ; count++) {
    const candidate = count === 1 ? ported : `${ported}${count}`;
    if (!taken.has(candidate)) return candidate;
  }
}

/** What a file must import for its rewritten references. */
interface Needs {
  readonly object: boolean;
  /** Types of the target, with their local names. */
  readonly types: ReadonlyMap<string, string>;
  /** Exports of the adapter's module, with their local names. */
  readonly handed: ReadonlyMap<string, { readonly local: string; readonly isTypeOnly: boolean }>;
}

/** Rewrites references to their replacements. */
export class Rewriter {
  count = 0;
  readonly #text: string;
  readonly #to: Destination;
  readonly #object: string;
  readonly #taken: ReadonlySet<string>;

  constructor(text: string, to: Destination, object: string, taken: ReadonlySet<string>) {
    this.#text = text;
    this.#to = to;
    this.#object = object;
    this.#taken = taken;
  }

  /** Adds the edits, and returns what the file must import for them. */
  rewrite(references: readonly Reference[], edits: TextEdit[]): Needs {
    let object = false;
    const types = new Map<string, string>();
    const handed = new Map<string, { readonly local: string; readonly isTypeOnly: boolean }>();
    for (const reference of references) {
      const { start, end, kind, site } = reference;
      const replacement = this.#to.of(site.specifier, reference.export) ?? {};
      const { type, reexportedAs } = replacement;
      this.count++;
      if (reexportedAs !== undefined && !isRewritable(reference, replacement)) {
        const [exported = reexportedAs, ...nested] = reexportedAs.split(".");
        const { local, isTypeOnly } = handed.get(exported) ?? {
          local: freeName(exported, this.#taken),
          isTypeOnly: true,
        };
        handed.set(exported, { local, isTypeOnly: isTypeOnly && kind === "type" });
        edits.push(this.#replaced(reference, [local, ...nested].join(".")));
      } else if (kind === "type" && type !== undefined) {
        const local = this.#localType(type, this.#text.slice(start, end));
        types.set(type, local);
        if (this.#text.slice(start, end) !== local) edits.push({ start, end, text: local });
      } else {
        object = true;
        edits.push(...this.#memberEdits(reference, replacement));
      }
    }
    return { object, types, handed };
  }

  /** Rewrites references such as `require("crane").lift`, which import the module where they stand. */
  rewriteInPlace(references: readonly Reference[], adapter: string, edits: TextEdit[]): void {
    for (const reference of references) {
      const { site } = reference;
      const quote = this.#text.charAt(site.offset);
      const object = `require(${quote}${adapter}${quote})${accessText(this.#to.object)}`;
      this.count++;
      edits.push(
        ...this.#memberEdits(reference, this.#to.of(site.specifier, reference.export) ?? {}, object),
      );
    }
  }

  #memberEdits(reference: Reference, replacement: Replacement, object = this.#object): readonly TextEdit[] {
    const { member = "", factory, guard } = replacement;
    const opened = openedMember(reference, replacement);
    if (opened) {
      const { start } = reference;
      return [{ start, end: opened.access.end, text: `${object}${accessText(opened.member)}` }];
    }
    if (reference.kind === "new" && factory !== undefined)
      return [this.#factoryCall(reference, factory, object)];
    if (reference.kind === "instanceof" && guard !== undefined)
      return this.#guardCall(reference, guard, object);
    return [this.#replaced(reference, `${object}${accessText(member)}`)];
  }

  /** `error instanceof Refusal` as `cranes.isRefusal(error)`. */
  #guardCall({ node }: Reference, guard: string, object: string): readonly TextEdit[] {
    const { left, right } = node.parent as Node & { left: Node; right: Node };
    const start = left.getStart();
    return [
      { start, end: start, text: `${object}${accessText(guard)}(` },
      { start: left.end, end: right.end, text: ")" },
    ];
  }

  /** A name that the file uses for something else stays unchanged. */
  #localType(type: string, written: string): string {
    return type === written || !this.#taken.has(type) ? type : freeName(type, this.#taken);
  }

  #replaced({ start, end, kind }: Reference, text: string): TextEdit {
    return kind === "shorthand" ? { start: end, end, text: `: ${text}` } : { start, end, text };
  }

  /** Members of a namespace whose names differ in the adapter's module. */
  renameMembers(binding: Binding, references: readonly Reference[]): TextEdit[] {
    if (binding.export !== "*" || this.#to.reexportsAll(binding.site.specifier)) return [];
    return references.flatMap(({ site, export: name, kind, start, end }) => {
      // Elements name no factory.
      if (kind === "jsx") return [];
      const handed = this.#to.of(site.specifier, name)?.reexportedAs;
      if (handed === undefined || handed === name) return [];
      this.count++;
      return [{ start, end, text: `${binding.local}${accessText(handed)}` }];
    });
  }

  /** `new Crane("PE-1")` as `cranes.createCrane("PE-1")`. */
  #factoryCall({ node, end }: Reference, factory: string, object: string): TextEdit {
    const construction = node.parent;
    const from = construction.getStart();
    const hasArguments = construction.end > end && /\)\s*$/.test(this.#text.slice(end, construction.end));
    const call = `${object}${accessText(factory)}`;
    return { start: from, end, text: hasArguments ? call : `${call}()` };
  }
}
