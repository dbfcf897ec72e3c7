import { owned } from "../../emit/code.ts";
import type { Declaration, Module } from "../../emit/module.ts";
import { propertyKey } from "../../types/writing/type-text.ts";
import { stringLiteral } from "../../written-text.ts";
import type { Outline } from "../outline/model.ts";
import type { LeftOutUse } from "../scenarios/observations.ts";
import { type Scenario, scenarioCode } from "../scenarios/scenario.ts";
import type { ScenarioType } from "../scenarios/scenario-types.ts";

/** Where a contract finds what it needs. */
export interface ContractSpecifiers {
  readonly targetPath: string;
  readonly adapterPath: string;
  /** Returns the specifier of a file, from the contract. */
  readonly specifierOf: (path: string) => string;
}

/** What a contract contains. */
export interface ContractContent {
  /** Kind of each member of the target. */
  readonly members: readonly { readonly name: string; readonly kind: string }[];
  readonly scenarios: readonly Scenario[];
  readonly leftOut: readonly Pick<LeftOutUse, "member" | "why">[];
}

/** Returns the owner of errors in a scenario. */
export function scenarioKey(title: string): string {
  return `scenario ${title}`;
}

/**
 * Returns a contract for a target: its members, and scenarios from its callers, whose results are those of the adapter
 * unless they were recorded.
 */
export function contractModule(
  { target, object, outside }: Outline,
  { members, scenarios, leftOut }: ContractContent,
  { targetPath, adapterPath, specifierOf }: ContractSpecifiers,
): Module {
  const isCompared = scenarios.length === 0 || scenarios.some(({ record }) => record === undefined);
  const types = typesIn(scenarios);
  return {
    isChecked: true,
    imports: [
      { specifier: "sleeve/conform", name: "contract", local: "contract" },
      { specifier: "sleeve/conform", name: "thrownBy", local: "thrownBy" },
      { specifier: specifierOf(targetPath), name: target, local: target },
      { specifier: specifierOf(adapterPath), name: object, local: object },
      ...types.flatMap(({ type, owners }) =>
        type.kind === "imported"
          ? { specifier: specifierOf(type.path), name: type.name, local: type.name, owners }
          : [],
      ),
    ],
    declarations: [
      ...types.flatMap(({ type, owners }): Declaration[] =>
        type.kind === "copied" ? [{ kind: "code", code: type.text, owners }] : [],
      ),
      {
        kind: "value",
        name: `${object}Contract`,
        doc: docText(target, outside, leftOut),
        value: [
          `contract<${target}>(${stringLiteral(target)}, {\n`,
          "surface: {\n",
          members.map(({ name, kind }) => `${propertyKey(name)}: ${stringLiteral(kind)},\n`),
          "},\n",
          isCompared ? `reference: () => ${object},\n` : "",
          "generated: [],\n",
          scenarios.length > 0
            ? ["scenarios: {\n", scenarios.map((item) => entryCode(item, object)), "},\n"]
            : "",
          "})",
        ],
      },
    ],
  };
}

/** Returns the types that scenarios mention, with the scenarios as owners. Of two with one name, the first counts. */
function typesIn(
  scenarios: readonly Scenario[],
): readonly { readonly type: ScenarioType; readonly owners: readonly string[] }[] {
  const byName = new Map<string, { readonly type: ScenarioType; readonly owners: string[] }>();
  for (const { title, lines } of scenarios)
    for (const type of lines.flatMap(({ needs }) => [...needs.types])) {
      const entry = byName.get(type.name) ?? { type, owners: [] };
      byName.set(type.name, entry);
      entry.owners.push(scenarioKey(title));
    }
  return [...byName.values()];
}

function entryCode(scenario: Scenario, object: string): ReturnType<typeof owned> {
  const { title, record } = scenario;
  const code = scenarioCode(scenario, object);
  const results = record && `results: [${record.results.join(", ")}]${record.fails ? ", fails: true" : ""}`;
  const value = results === undefined ? code : ["{ use: ", code, `, ${results} }`];
  return owned([scenarioKey(title)], [`${stringLiteral(title)}: `, value, ",\n"]);
}

function docText(target: string, outside: string, leftOut: ContractContent["leftOut"]): string {
  const head = `What every ${target} must do: what its callers do, with the results of the adapter over ${outside}.`;
  if (leftOut.length === 0) return head;
  const lines = leftOut.map(({ member, why }) => `- \`${member}\`: ${why}`);
  return [head, "", "Add scenarios for these, in which they have values that a test can use:", ...lines].join(
    "\n",
  );
}
