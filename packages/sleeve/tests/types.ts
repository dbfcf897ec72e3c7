/**
 * The public types, proved by the compiler: every line below an `@ts-expect-error` must be an error, and no other.
 * Checked by `npm run types` and by types.test.ts.
 */
import { type Adapter, adapter, decorate, type Layer, layer, logging, type Mapping, timing } from "sleeve";
import { type Contract, contract } from "sleeve/conform";

interface Gauge {
  stationName: string;
  readonly serial: number;
  level_ft: number;
  offset: number;
  // biome-ignore lint/suspicious/noExplicitAny: that it proves nothing is shown below
  loose: any;
  read(local: string): Promise<number>;
  readNarrow(kind: "high"): string;
  readWide(kind: string, more?: number): "ok";
  count(): number;
  shutdown(): void;
}

interface Tides {
  readonly port: string;
  height: number;
  kindOf(kind: "high" | "low"): string;
  at(local: string): Promise<number>;
  close(): void;
  refresh?(): Promise<void>;
}

type Same<Left, Right> =
  (<Type>() => Type extends Left ? 1 : 2) extends <Type>() => Type extends Right ? 1 : 2 ? true : false;
const isTrue = <Claim extends true>(): Claim | undefined => undefined;

const full = {
  port: "stationName",
  height: "offset",
  kindOf: "readWide",
  at: "read",
  close: "shutdown",
} as const satisfies Mapping<Tides, Gauge>;

// What is right.
const made = adapter<Tides, Gauge>(full);
isTrue<Same<typeof made, Adapter<Tides, Gauge>>>();
adapter<Tides, Gauge>({ ...full, port: { get: (gauge) => gauge.stationName } });
adapter<Tides, Gauge>({ ...full, at: async (gauge, local) => gauge.level_ft + local.length });
adapter<Tides, Gauge>({ ...full, refresh: async (gauge) => gauge.shutdown() });
adapter<Tides, Gauge>({
  ...full,
  height: { get: (gauge) => gauge.level_ft, set: (gauge, value) => void (gauge.level_ft = value) },
});

// A member that is missing.
const { close: _, ...open } = full;
// @ts-expect-error
adapter<Tides, Gauge>(open);

// A member, or the name of one, that is misspelt.
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, port: "stationNaem" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...open, clsoe: "shutdown" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, extra: "count" });

// A name of another shape: another type, property for method, method for property, sync for async.
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, port: "serial" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, port: "shutdown" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, at: "stationName" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, at: "count" });

// A method that takes less than the target sends, which plain assignability lets through.
const narrow: Pick<Gauge, "readNarrow"> = { readNarrow: (kind) => kind };
const bivariant: { readNarrow(kind: "high" | "low"): string } = narrow;
void bivariant;
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, kindOf: "readNarrow" });

// `any` proves nothing, and a readonly property cannot stand for one that may be written.
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, port: "loose" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, height: "serial" });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, height: { get: (gauge) => gauge.level_ft } });

// A translation with the wrong result or parameters.
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, at: (gauge) => gauge.level_ft });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, at: async (gauge, local: number) => gauge.level_ft + local });
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, port: { get: (gauge) => gauge.level_ft } });

// An adapter only translates: there is no place for layers in it.
// @ts-expect-error
adapter<Tides, Gauge>(full, { layers: [logging()] });

// Decorating keeps the type, and layers are typed by the members of what they are put around.
declare const tides: Tides;
const decorated = decorate(tides, logging(), timing({ to: () => {}, only: ["at", "kindOf"] }));
isTrue<Same<typeof decorated, Tides>>();
// @ts-expect-error
decorate(tides, timing({ to: () => {}, only: ["ta"] }));
// @ts-expect-error
decorate(tides, logging({ only: ["at", "sounding"] }));
const forTides: Layer<Tides> = layer<Tides>("forTides", {}, { only: ["at"] });
decorate(tides, forTides);
// @ts-expect-error
decorate({ bell: 1 }, forTides);
const forAll: Layer = layer("forAll", {});
decorate(tides, forAll);
// @ts-expect-error
decorate(7);

// A contract's surface names every member of the target, and its kind.
const terms = {
  surface: {
    port: "property",
    height: "property",
    kindOf: "method",
    at: "method",
    close: "method",
    refresh: "method",
  },
} as const;
const stated: Contract<Tides> = contract<Tides>("Tides", terms);
void stated;
const { refresh: __, ...unrefreshed } = terms.surface;
// @ts-expect-error
contract<Tides>("Tides", { surface: unrefreshed });
// @ts-expect-error
contract<Tides>("Tides", { surface: { ...terms.surface, at: "property" } });
// @ts-expect-error
contract<Tides>("Tides", { ...terms, examples: { "has a sound": (each) => each.sound() } });
