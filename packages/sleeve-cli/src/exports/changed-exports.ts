import { aliasTarget } from "../compiler/syntax.ts";
import { type Checker, type CompilerSymbol, type Node, SymbolFlags } from "../compiler/typescript.ts";
import { originalText } from "./comparison-files.ts";
import { mentionedNames } from "./mentioned-names.ts";

/** The declarations of one export in two versions. */
export interface SymbolPair {
  readonly old: CompilerSymbol;
  readonly found: CompilerSymbol;
}

interface PairState {
  hasChanged: boolean;
  readonly mentionedBy: Set<PairState>;
}

/**
 * Finds the exports whose declarations differ, or mention declarations that differ. The others need no comparison by
 * the compiler. A mentioned export is compared on its own, so that one change is not reported for each export that
 * mentions it.
 */
export class ChangedExports {
  readonly #checker: Checker;
  readonly #folder: string;
  readonly #isExported: (symbol: CompilerSymbol) => boolean;
  readonly #states = new Map<string, PairState>();
  readonly #waiting: (readonly [SymbolPair, PairState])[] = [];

  /** @param folder path that holds all declarations of both versions */
  constructor(checker: Checker, folder: string, isExported: (symbol: CompilerSymbol) => boolean) {
    this.#checker = checker;
    this.#folder = folder;
    this.#isExported = isExported;
  }

  hasChanged(pair: SymbolPair): boolean {
    const state = this.#stateOf(pair);
    for (let next = this.#waiting.pop(); next; next = this.#waiting.pop()) this.#follow(...next);
    return state.hasChanged;
  }

  #stateOf(pair: SymbolPair): PairState {
    const key = `${pair.old.id} ${pair.found.id}`;
    let state = this.#states.get(key);
    if (!state) {
      state = { hasChanged: false, mentionedBy: new Set() };
      this.#states.set(key, state);
      if (pair.old.id !== pair.found.id) this.#waiting.push([pair, state]);
    }
    return state;
  }

  #follow({ old, found }: SymbolPair, state: PairState): void {
    const [was, is] = [this.#declarationsOf(old), this.#declarationsOf(found)];
    const isSame = was.length === is.length && was.every(({ text }, index) => text === is[index]?.text);
    if (!isSame) {
      markChanged(state);
      return;
    }
    const names = was.flatMap(({ names }) => names);
    const counterparts = is.flatMap(({ names }) => names);
    for (const [index, name] of names.entries()) {
      const counterpart = counterparts[index];
      if (this.#isAlike(name, counterpart)) continue;
      if (!name || !counterpart) markChanged(state);
      else {
        const mentioned = this.#stateOf({ old: name, found: counterpart });
        mentioned.mentionedBy.add(state);
        if (mentioned.hasChanged) markChanged(state);
      }
    }
  }

  /** Whether two parts of declarations with the same text mention changed declarations that are not exported. */
  mentionsChanged(old: Node, current: Node): boolean {
    const [names, counterparts] = [this.#namesIn(old), this.#namesIn(current)];
    return names.some((name, index) => {
      const counterpart = counterparts[index];
      if (this.#isAlike(name, counterpart)) return false;
      return !name || !counterpart || this.hasChanged({ old: name, found: counterpart });
    });
  }

  /** Whether two symbols are the same, or are exports that are compared on their own. */
  #isAlike(old: CompilerSymbol | undefined, current: CompilerSymbol | undefined): boolean {
    if (old?.id === current?.id) return true;
    return old !== undefined && current !== undefined && this.#isExported(old) && this.#isExported(current);
  }

  #namesIn(node: Node): readonly (CompilerSymbol | undefined)[] {
    return this.#checker
      .getSymbolAtLocation(mentionedNames(node))
      .map((symbol) => symbol && aliasTarget(this.#checker, symbol));
  }

  #declarationsOf({ declarations, flags }: CompilerSymbol) {
    if ((flags & SymbolFlags.TypeParameter) !== 0) return [];
    return declarations.flatMap((declaration) => {
      const node = declaration.path.startsWith(`${this.#folder}/`) ? declaration.resolve() : undefined;
      const source = node?.getSourceFile();
      if (!node || !source) return [];
      return [
        {
          text: originalText(source.text.slice(node.getStart(source), node.end)),
          names: this.#namesIn(node),
        },
      ];
    });
  }
}

function markChanged(state: PairState): void {
  if (state.hasChanged) return;
  state.hasChanged = true;
  for (const other of state.mentionedBy) markChanged(other);
}
