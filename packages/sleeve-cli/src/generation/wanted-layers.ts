import { CliError } from "../errors.ts";
import type { GenerateOptions } from "./generate-options.ts";
import { LAYERS, layersIn, type WantedLayers } from "./layers.ts";
import type { WrapKind } from "./place.ts";

/** @throws {CliError} `BAD_OPTION` */
export function wantedLayers(options: GenerateOptions): WantedLayers {
  const { layers = [], clearedBy = [], standalone = false } = options;
  const mistake = MISTAKES.find(({ isMade }) => isMade(options));
  if (mistake) throw new CliError("BAD_OPTION", mistake.text(options.kind));
  return { layers: layersIn(layers), clearing: clearedBy, isStandalone: standalone };
}

/** What is wrong with some options, and the sentence for it. */
const MISTAKES: readonly {
  readonly isMade: (options: GenerateOptions) => boolean;
  readonly text: (kind: WrapKind) => string;
}[] = [
  {
    isMade: ({ kind, over = [] }) => kind === "adapter" && over.length !== 1,
    text: () =>
      "An adapter needs one adaptee. Add --over with a type, a value or a module, such as --over pg#Client.",
  },
  {
    isMade: ({ kind, over = [] }) => kind === "facade" && over.length === 0,
    text: () =>
      "A facade needs subsystems. Add --over for each, with a type, a value or a module, such as --over src/berths.ts#Berths.",
  },
  {
    isMade: ({ kind, over = [] }) => over.length > 0 && !OVER.has(kind),
    text: (kind) => `--over is for adapters, facades and bridges, not for --as ${kind}. Leave it out.`,
  },
  {
    isMade: ({ kind, operations = [] }) => operations.length > 0 && kind !== "facade",
    text: (kind) => `--operation is for facades, not for --as ${kind}. Leave it out.`,
  },
  {
    isMade: ({ kind, layers = [], clearedBy = [] }) =>
      kind !== "decorator" && kind !== "proxy" && layers.length + clearedBy.length > 0,
    text: (kind) => `--layer is for decorators and proxies, not for --as ${kind}. Leave it out.`,
  },
  {
    isMade: ({ kind, layers = [] }) => kind === "decorator" && layers.length === 0,
    text: () => `A decorator needs a layer. Add --layer with one of: ${Object.keys(LAYERS).join(", ")}.`,
  },
];

/** Kinds of wrappers that have an adaptee, subsystems or implementations. */
const OVER: ReadonlySet<string> = new Set(["adapter", "facade", "bridge", "contract"]);
