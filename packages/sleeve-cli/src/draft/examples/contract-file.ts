import type { Style } from "../../isolation/style.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import { Lines } from "../../place.ts";
import type { Outline } from "../outline/model.ts";
import { styled } from "../render/source-builder.ts";
import { contractText, exampleKey } from "./contract-text.ts";
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
    let kept = examples;
    const leftOut: ExampleLeftOut[] = [];
    for (;;) {
      const place = { target, surface: imported, document, isScript };
      const { text, keys } = styled(contractText(outline, kept, place), style);
      const errors = overlays.errorsWithin(new Map([...drafted, [path, text]]), [path]);
      if (errors.length === 0) return { text, examples: kept, leftOut };
      const lines = new Lines(text);
      const broken = new Map(
        errors.flatMap((error) =>
          (keys.get(lines.at(error.offset).line - 1) ?? []).map((key) => [key, error.text] as const),
        ),
      );
      if (broken.size === 0) break;
      for (const { title } of kept) {
        const why = broken.get(exampleKey(title));
        if (why !== undefined) leftOut.push({ title, why: `it does not compile: ${why}` });
      }
      kept = kept.filter(({ title }) => !broken.has(exampleKey(title)));
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
  const held: DraftedExample[] = [];
  const leftOut: ExampleLeftOut[] = [];
  for (const example of examples) {
    const outcome: ExampleOutcome = outcomes.get(example) ?? { kind: "not run", why: "it was not reached" };
    if (outcome.kind === "returned") held.push(example);
    else if (outcome.kind === "threw" && outcome.isBuiltIn && example.isHandled)
      held.push({ ...example, throws: outcome.error });
    else {
      const why = outcome.kind === "threw" ? `it throws ${outcome.error}: ${outcome.message}` : outcome.why;
      leftOut.push({ title: example.title, why });
    }
  }
  return { examples: held, leftOut };
}
