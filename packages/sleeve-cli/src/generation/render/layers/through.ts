import { isIdentifierName } from "../../../types/writing/type-text.ts";
import { type CallCode, type CallSite, then } from "../call-code.ts";
import type { LayerCode } from "./layer-code.ts";

/** Puts the code of layers around a call, the outermost first. Neighbouring layers that watch share one block. */
export function through(
  layers: readonly { readonly code: LayerCode }[],
  call: CallCode,
  site: CallSite,
): CallCode {
  let code = call;
  let watching: LayerCode[] = [];
  const putWatched = () => {
    if (watching.length > 0) code = watchedCode(watching, code, site);
    watching = [];
  };
  for (const { code: layer } of layers.toReversed()) {
    if (layer.watch) watching.unshift(layer);
    else {
      putWatched();
      code = layer.check ? checkedCode(layer, code, site) : (layer.around?.(code, site) ?? code);
    }
  }
  putWatched();
  return code;
}

function watchedCode(layers: readonly LayerCode[], inner: CallCode, site: CallSite): CallCode {
  const watchers = layers.flatMap((layer) => layer.watch?.(site) ?? []);
  const innermostFirst = watchers.toReversed();
  const error = site.fresh("error");
  const ends = (result: string): readonly string[] => {
    if (site.settlement === "value") return innermostFirst.flatMap(({ returned }) => returned(result));
    const outcome = site.fresh("outcome");
    const [statement = "", ...others] = innermostFirst.map(({ ended }) => ended(outcome));
    return others.length === 0
      ? [`observe(${result}, (${outcome}) => ${statement.slice(0, -1)});`]
      : [`observe(${result}, (${outcome}) => {`, statement, ...others, "});"];
  };
  return (sink) => [
    ...watchers.flatMap(({ begin }) => begin),
    "try {",
    ...inner(
      then((value) => {
        const isName = isIdentifierName(value);
        const result = isName ? value : site.fresh("result");
        return [...(isName ? [] : [`const ${result} = ${value};`]), ...ends(result), ...sink(result)];
      }),
    ),
    `} catch (${error}) {`,
    ...innermostFirst.flatMap(({ threw }) => threw(error)),
    `throw ${error};`,
    "}",
  ];
}

/** A check that fails throws, or makes the promise reject that the member returns. */
function checkedCode({ check }: LayerCode, inner: CallCode, site: CallSite): CallCode {
  const checked = check?.(site);
  if (!checked) return inner;
  if (site.settlement !== "promise") return (sink) => [...checked.statements, ...inner(sink)];
  const refused = site.fresh(checked.name);
  const declared = `const ${refused} = ${checked.error};`;
  return (sink) => {
    if (sink.returns)
      return [declared, `if (${refused} !== undefined) return Promise.reject(${refused});`, ...inner(sink)];
    return [
      declared,
      `if (${refused} !== undefined) {`,
      ...sink(`Promise.reject(${refused})`),
      "}",
      ...inner(sink),
    ];
  };
}
