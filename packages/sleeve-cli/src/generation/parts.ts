import accessCheck from "./parts/access-check.ts?raw";
import callLog from "./parts/call-log.ts?raw";
import callTimer from "./parts/call-timer.ts?raw";
import deadline from "./parts/deadline.ts?raw";
import layerError from "./parts/layer-error.ts?raw";
import observe from "./parts/observe.ts?raw";
import ownFunctions from "./parts/own-functions.ts?raw";
import plainKey from "./parts/plain-key.ts?raw";
import reportOnce from "./parts/report-once.ts?raw";
import resultCache from "./parts/result-cache.ts?raw";
import retries from "./parts/retries.ts?raw";
import systemClock from "./parts/system-clock.ts?raw";
import undoSteps from "./parts/undo-steps.ts?raw";
import valueCheck from "./parts/value-check.ts?raw";

/** The sources that generated files contain, by their files. */
const PARTS: Readonly<Record<string, string>> = {
  "access-check": accessCheck,
  "call-log": callLog,
  "call-timer": callTimer,
  deadline,
  "layer-error": layerError,
  observe,
  "own-functions": ownFunctions,
  "plain-key": plainKey,
  "report-once": reportOnce,
  "result-cache": resultCache,
  retries,
  "system-clock": systemClock,
  "undo-steps": undoSteps,
  "value-check": valueCheck,
};

/** The start of a declaration, with its comment. */
const DECLARATION =
  /(?:^\/\*\*(?:[^*]|\*(?!\/))*\*\/\n)?^(?:export )?(?:async )?(?:interface|type|class|function|const) (\w+)/gm;

interface Declaration {
  readonly name: string;
  readonly source: string;
}

/** All declarations of the parts, by their names. */
const DECLARATIONS: ReadonlyMap<string, Declaration> = new Map(
  Object.values(PARTS)
    .flatMap(declarationsIn)
    .map((declaration) => [declaration.name, declaration]),
);

/** Names that a file with layers cannot use for something else. */
export const PART_NAMES: readonly string[] = [...DECLARATIONS.keys()];

/** Returns the source of some declarations, with all that they use themselves. */
export function sourceOfParts(names: Iterable<string>): readonly string[] {
  const wanted = new Map<string, Declaration>();
  const add = (name: string) => {
    const declaration = DECLARATIONS.get(name);
    if (!declaration || wanted.has(name)) return;
    wanted.set(name, declaration);
    for (const [word] of declaration.source.replace(COMMENT, "").matchAll(/\b[A-Za-z]\w+\b/g)) add(word);
  };
  for (const name of names) add(name);
  return [...wanted.values()].flatMap(({ source }) => ["", ...source.split("\n")]);
}

const COMMENT = /\/\*\*(?:[^*]|\*(?!\/))*\*\/|\/\/.*/g;

function declarationsIn(source: string): readonly Declaration[] {
  const starts = [...source.matchAll(DECLARATION)];
  return starts.map((start, index) => ({
    name: start[1] ?? "",
    source: source
      .slice(start.index, starts[index + 1]?.index)
      .replace(/^export /m, "")
      .trim(),
  }));
}
