import { CliError } from "../errors.ts";
import { nearestName } from "../nearest-name.ts";
import type { LayerName, WantedLayers } from "./layers.ts";
import type { ChosenMember } from "./render/class.ts";
import type { DecoratorPlan, PlannedLayer } from "./render/decorator.ts";
import { accessCode } from "./render/layers/access.ts";
import { cachedCode } from "./render/layers/cached.ts";
import { guardCode } from "./render/layers/guard.ts";
import type { LayerCode } from "./render/layers/layer-code.ts";
import { limitedCode } from "./render/layers/limited.ts";
import { loggingCode } from "./render/layers/logging.ts";
import { retryingCode } from "./render/layers/retrying.ts";
import { timingCode } from "./render/layers/timing.ts";
import type { Settlement, WrapMember } from "./target/signature-forms.ts";

/**
 * Checks that layers name members that a type has and that they can be applied to.
 *
 * @throws {CliError} `BAD_OPTION`
 */
export function requireLayers(
  { layers, clearing, isLenient = false }: WantedLayers,
  given: string,
  members: readonly WrapMember[],
): void {
  const names = members.map(({ name }) => name);
  const named = layers.flatMap(({ name, only = [] }) =>
    only.map((member) => ({ option: `--layer ${name}`, member })),
  );
  for (const { option, member } of [
    ...named,
    ...clearing.map((member) => ({ option: "--cleared-by", member })),
  ]) {
    if (names.includes(member)) continue;
    const meant = nearestName(member, names);
    throw new CliError(
      "BAD_OPTION",
      `${option}: ${given} has no member ${member} that can be wrapped.${meant ? ` Did you mean ${meant}?` : ` It has: ${names.slice(0, 8).join(", ")}.`}`,
    );
  }
  if (clearing.length > 0 && layers.every(({ name }) => name !== "cached"))
    throw new CliError(
      "BAD_OPTION",
      "--cleared-by needs --layer cached. Add the layer, or leave the option out.",
    );
  const best = members.flatMap((member) => {
    const [form] = member.forms;
    return form ? [{ ...member, form }] : [];
  });
  const unused = layers.filter((layer) => {
    const chosen = best.filter(({ name }) => layer.only?.includes(name) ?? true);
    const unfit = chosen.find((member) => !isApplicable(layer.name, member));
    if (layer.only && unfit)
      throw new CliError("BAD_OPTION", `--layer ${layer.name}: ${unfit.name} ${NEEDS[layer.name]}.`);
    return chosen.every((member) => !isApplicable(layer.name, member));
  });
  const [firstUnused] = unused;
  if (firstUnused && (!isLenient || unused.length === layers.length))
    throw new CliError(
      "NOTHING_TO_WRAP",
      `--layer ${firstUnused.name} applies to no member of ${given}: each ${NEEDS[firstUnused.name]}. Leave it out.`,
    );
}

/** Why a layer cannot be applied to a member. */
const NEEDS: Readonly<Record<LayerName, string>> = {
  logging: "is a property, and only calls are logged",
  timing: "is a property, and only calls are measured",
  access: "cannot be checked",
  guard: "has no parameters and is not written",
  cached: "is a property, and only results of calls are kept",
  retrying: "returns no promise, and only promises are retried",
  limited: "returns no promise, and only promises can be limited",
};

/** Plans the layers of a class with members in their forms. */
export function planLayers(
  { layers, clearing }: WantedLayers,
  members: readonly ChosenMember[],
  isLazy: boolean,
): DecoratorPlan {
  const cleared = new Set(clearing);
  const planned = layers.map((layer): PlannedLayer => {
    const isChosen = (name: string) =>
      (layer.only?.includes(name) ?? true) || (layer.name === "cached" && cleared.has(name));
    const chosen = members.filter(
      (member) => isChosen(member.name) && isApplicable(layer.name, member, cleared),
    );
    const names = new Set(chosen.map(({ name }) => name));
    return {
      name: layer.name,
      code: codeOf(layer.name, cleared),
      appliesTo: (member) => names.has(member),
    };
  });
  return { layers: planned.filter(({ appliesTo }) => members.some(({ name }) => appliesTo(name))), isLazy };
}

/** The code of each layer. A new layer has one entry here, and one in `LAYERS`. */
function codeOf(name: LayerName, clearing: ReadonlySet<string>): LayerCode {
  switch (name) {
    case "logging":
      return loggingCode;
    case "timing":
      return timingCode;
    case "access":
      return accessCode;
    case "guard":
      return guardCode;
    case "cached":
      return cachedCode(clearing);
    case "retrying":
      return retryingCode;
    case "limited":
      return limitedCode;
  }
}

function isApplicable(
  layer: LayerName,
  { form }: ChosenMember,
  clearing: ReadonlySet<string> = new Set(),
): boolean {
  const isCalled = form.kind === "method" || form.called !== undefined;
  switch (layer) {
    case "access":
      return true;
    case "guard":
      if (form.kind === "method") return form.signatures.some(({ parameters }) => parameters.length > 0);
      return form.called ? form.called.names.length > 0 : form.written !== undefined;
    case "cached":
      return isCalled || clearing.size > 0;
    case "retrying":
    case "limited":
      return settlementsOf(form).some((settlement) => settlement !== "value");
    default:
      return isCalled;
  }
}

function settlementsOf(form: ChosenMember["form"]): readonly Settlement[] {
  if (form.kind === "method") return form.signatures.map(({ settlement }) => settlement);
  return form.called ? [form.called.settlement] : [];
}
