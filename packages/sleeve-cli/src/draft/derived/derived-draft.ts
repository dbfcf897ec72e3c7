import type { CompileError } from "../../emit/compile-errors.ts";
import { Underivable } from "../../types/derived/reading/derive-context.ts";
import type { Attempt, Attempts, VerifySettings } from "../attempts.ts";
import type { ImplementationForm } from "../outline/model.ts";
import type { DerivedForms } from "./derived-settings.ts";

/** Maximum number of compilations. */
const MAX_ROUNDS = 10;

/** The forms of an implementation, in the order in which they are tried. */
const FORMS: readonly ImplementationForm[] = ["direct", "forwarded", "asserted", "aliased"];

/**
 * Drafts a target whose types follow from use. Each member and type has the first form that compiles. Returns
 * `undefined` if the types cannot follow from use alone.
 */
export function derivedDraft(attempts: Attempts, settings: VerifySettings): Attempt | undefined {
  if (settings.types === "declared") return undefined;
  const search = new DerivedSearch(attempts, settings);
  try {
    for (let round = 1; round <= MAX_ROUNDS; round++) {
      const compiled = attempts.runDerived(search);
      const elsewhere = attempts.errorsElsewhere(compiled);
      const attempt = {
        ...compiled,
        errors: [...compiled.errors, ...elsewhere],
        isGood: compiled.isGood && elsewhere.length === 0,
      };
      if (attempt.isGood) return attempt;
      if (!search.widen(attempt)) return undefined;
    }
  } catch (error) {
    if (!(error instanceof Underivable)) throw error;
  }
  return undefined;
}

/** What is not as the uses say, because it does not compile. */
class DerivedSearch implements DerivedForms {
  untyped: DerivedForms["untyped"] = "unknown";
  readonly forms = new Map<string, ImplementationForm>();
  readonly aliased = new Map<string, string>();
  readonly #attempts: Attempts;
  readonly #settings: VerifySettings;

  constructor(attempts: Attempts, settings: VerifySettings) {
    this.#attempts = attempts;
    this.#settings = settings;
  }

  /** Widens what the errors come from; `false` if that is not known. */
  widen(attempt: Attempt): boolean {
    const { adapterPath, targetPath } = this.#settings;
    const keys = attempt.unmoved.map((key) => `export ${key}`);
    const inAdapter = attempt.errors.filter(({ path }) => path === adapterPath);
    const inCallers = attempt.errors.filter(({ path }) => path !== adapterPath && path !== targetPath);
    const inTarget = attempt.errors.filter(({ path }) => path === targetPath);
    let isChanged = this.#alias(keys);
    for (const error of inAdapter) isChanged = this.#nextForm(error, attempt) || isChanged;
    for (const error of inTarget)
      isChanged = this.#alias(attempt.draft.target.ownersAt(error.offset)) || isChanged;
    if (inCallers.length === 0) return isChanged;
    if (this.untyped === "unknown") {
      this.untyped = "any";
      return true;
    }
    for (const error of inCallers)
      isChanged = this.#alias(this.#attempts.suspectsOf(error, attempt)) || isChanged;
    return isChanged;
  }

  /** Gives members and types the types of the outside module. */
  #alias(choices: readonly string[]): boolean {
    let isChanged = false;
    for (const choice of choices) {
      if (choice.startsWith("export ")) {
        isChanged ||= this.forms.get(choice) !== "aliased";
        this.forms.set(choice, "aliased");
      } else if (!this.aliased.has(choice)) {
        this.aliased.set(choice, "the callers do not compile with what they use of it");
        isChanged = true;
      }
    }
    return isChanged;
  }

  /** Chooses the next form of the members that an error in the adapter belongs to; `false` if there is none. */
  #nextForm({ offset }: CompileError, { draft, outline }: Attempt): boolean {
    let isChanged = false;
    for (const owner of draft.adapter.ownersAt(offset)) {
      const member = outline.members.find(({ key }) => `export ${key}` === owner);
      const form = member?.implementation?.form;
      const next = form && FORMS[FORMS.indexOf(form) + 1];
      if (!next || member?.aliased !== undefined) continue;
      this.forms.set(owner, next);
      isChanged = true;
    }
    return isChanged;
  }
}
