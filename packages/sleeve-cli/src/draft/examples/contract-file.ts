import { printed } from "../../emit/printed.ts";
import type { Style } from "../../emit/style.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import type { Outline } from "../outline/model.ts";
import { contractModule, exampleKey } from "./contract-module.ts";
import type { DraftedExample } from "./examples.ts";
import { type ExampleOutcome, runExamples } from "./run-examples.ts";

/** An example that the contract does not have. */
export interface ExampleLeftOut {
  readonly title: string;
  readonly why: string;
}

export interface DraftedContract {
  readonly text: string;
  readonly examples: readonly DraftedExample[];
  readonly leftOut: readonly ExampleLeftOut[];
}

export interface ContractPlace {
  readonly path: string;
  /** Specifiers of the target and of the surface document, from the contract. */
  readonly target: string;
  readonly surface: string;
  readonly document: string;
  readonly isScript: boolean;
  readonly style: Style;
  /** The other drafted files, by path. */
  readonly drafted: ReadonlyMap<string, string>;
}

/**
 * Writes a contract that compiles. Examples that do not compile are left out. Returns `undefined` if the project's
 * settings allow no contract.
 */
export function contractFileOf(
  outline: Outline,
  examples: readonly DraftedExample[],
  overlays: OverlayProgram,
  { path, target, surface, document, isScript, style, drafted }: ContractPlace,
): DraftedContract | undefined {
  // If the project's settings do not allow JSON imports, the contract contains the surface itself.
  for (const imported of [surface, undefined]) {
    let remaining = examples;
    const leftOut: ExampleLeftOut[] = [];
    for (;;) {
      const module = contractModule(outline, remaining, { target, surface: imported, document });
      const { text, ownersAt } = printed(module, { language: isScript ? "module" : "typescript", style });
      const errors = overlays.errorsWithin(new Map([...drafted, [path, text]]), [path]);
      if (errors.length === 0) return { text, examples: remaining, leftOut };
      const broken = new Map(
        errors.flatMap((error) => ownersAt(error.offset).map((owner) => [owner, error.text] as const)),
      );
      if (broken.size === 0) break;
      for (const { title } of remaining) {
        const why = broken.get(exampleKey(title));
        if (why !== undefined) leftOut.push({ title, why: `it does not compile: ${why}` });
      }
      remaining = remaining.filter(({ title }) => !broken.has(exampleKey(title)));
    }
  }
  return undefined;
}

/** Runs examples, and returns those that hold; a call that fails and is handled must fail. */
export function examplesThatHold(
  outline: Outline,
  examples: readonly DraftedExample[],
  folder: string,
): { readonly examples: readonly DraftedExample[]; readonly leftOut: readonly ExampleLeftOut[] } {
  const outcomes = runExamples(outline, examples, folder);
  const holding: DraftedExample[] = [];
  const leftOut: ExampleLeftOut[] = [];
  for (const example of examples) {
    const outcome: ExampleOutcome = outcomes.get(example) ?? { kind: "not run", why: "it was not reached" };
    if (outcome.kind === "returned") holding.push(example);
    else if (outcome.kind === "threw" && outcome.isBuiltIn && example.isHandled)
      holding.push({ ...example, throws: outcome.error });
    else {
      const why = outcome.kind === "threw" ? `it throws ${outcome.error}: ${outcome.message}` : outcome.why;
      leftOut.push({ title: example.title, why });
    }
  }
  return { examples: holding, leftOut };
}
