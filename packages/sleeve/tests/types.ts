/**
 * Type tests: exactly the lines below an `@ts-expect-error` must be errors.
 * Checked by `npm run types` and by types.test.ts.
 */
import {
  type Adapter,
  access,
  adapter,
  type Bridge,
  between,
  bridge,
  cached,
  classAdapter,
  type Deferred,
  decorate,
  decorateClass,
  facade,
  guard,
  type Layer,
  layer,
  limited,
  logging,
  type Mapping,
  override,
  proxy,
  type Refusal,
  refuse,
  retrying,
  type Surface,
  stack,
  stub,
  timing,
  twoWay,
  undoable,
  waiting,
} from "sleeve";
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

// Correct code.
const made = adapter<Tides, Gauge>(full);
isTrue<Same<typeof made, Adapter<Tides, Gauge>>>();
adapter<Tides, Gauge>({ ...full, port: { get: (gauge) => gauge.stationName } });
adapter<Tides, Gauge>({ ...full, at: async (gauge, local) => gauge.level_ft + local.length });
adapter<Tides, Gauge>({ ...full, refresh: async (gauge) => gauge.shutdown() });
adapter<Tides, Gauge>({
  ...full,
  height: { get: (gauge) => gauge.level_ft, set: (gauge, value) => void (gauge.level_ft = value) },
});

// A missing member.
const { close: _, ...open } = full;
// @ts-expect-error
adapter<Tides, Gauge>(open);

// A misspelt member or name of a member.
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

// A method that accepts less than the target sends, which plain assignability permits.
const narrow: Pick<Gauge, "readNarrow"> = { readNarrow: (kind) => kind };
const bivariant: { readNarrow(kind: "high" | "low"): string } = narrow;
void bivariant;
// @ts-expect-error
adapter<Tides, Gauge>({ ...full, kindOf: "readNarrow" });

// `any` proves nothing, and a readonly property cannot replace a writable one.
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

// An adapter only translates, and accepts no layers.
// @ts-expect-error
adapter<Tides, Gauge>(full, { layers: [logging()] });

// Decorating keeps the type, and layers are typed by the members of their subject.
declare const tides: Tides;
const decorated = decorate(tides, logging(), timing({ onSample: () => {}, only: ["at", "kindOf"] }));
isTrue<Same<typeof decorated, Tides>>();
// @ts-expect-error
decorate(tides, timing({ onSample: () => {}, only: ["ta"] }));
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
contract<Tides>("Tides", { ...terms, examples: { "has a sound": (tides) => tides.sound() } });

// An asynchronous layer applies only to members that return promises.
decorate(
  tides,
  retrying({ only: ["at"] }),
  limited({ only: ["at"], timeout: "2s" }),
  cached({ only: ["kindOf"] }),
);
decorate(
  tides,
  access(async () => true, { only: ["at"] }),
  waiting({ only: ["at"], until: (height: number) => height > 0 }),
);
// @ts-expect-error
decorate(tides, retrying({ only: ["kindOf"] }));
// @ts-expect-error
decorate(tides, limited({ only: ["kindOf"] }));
const later = access(async () => true, { only: ["close"] });
// @ts-expect-error
decorate(tides, later);
// @ts-expect-error
decorate(tides, cached({ only: ["sounding"] }));
// @ts-expect-error
cached({ ttl: "ten minutes" });

// A guard names the parameters of its members, and checks their values.
decorate(tides, guard<Tides>({ kindOf: { kind: (name: string) => name !== "" }, height: between(0, 9) }));
// @ts-expect-error
guard<Tides>({ knidOf: {} });
// @ts-expect-error
guard<Tides>({ height: between("a", "b") });
// A list of checks is typed by parameter.
guard<Tides>({ kindOf: [(name: string) => name.length > 0] });
// @ts-expect-error
guard<Tides>({ kindOf: [between(1, 2)] });

// Functions keep their signatures, generic ones and overloads too; classes stay classes.
declare function overloaded(value: string): string;
declare function overloaded(value: number): number;
const generic = decorate(<Value>(value: Value): readonly Value[] => [value], stack(logging()));
isTrue<Same<ReturnType<typeof generic<"x">>, readonly "x"[]>>();
const both = decorate(overloaded, logging());
isTrue<Same<typeof both, typeof overloaded>>();
class Winch {
  static make(): Winch {
    return new Winch();
  }
  readonly load = 4;
  haul(metres: number): number {
    return metres;
  }
}
const Watched = decorateClass(Winch, logging({ only: ["haul", "make"] }));
isTrue<Same<typeof Watched, typeof Winch>>();
// @ts-expect-error
decorateClass(Winch, logging({ only: ["hual"] }));

// `override` accepts members of the subject with their types, and returns the subject's type.
const replaced = override(new Winch(), (original) => ({ haul: (metres) => original.haul(metres * 2) }));
isTrue<Same<typeof replaced, Winch>>();
// @ts-expect-error
override(new Winch(), () => ({ haul: () => "far" }));
// @ts-expect-error
override(new Winch(), (original) => ({ haul: (metres) => original.haul(metres), hual: () => 1 }));

// A proxy with asynchronous creation returns only promises, and has no values to read.
const surface: Surface<Winch> = { load: "property", haul: "method" };
const late = proxy(async () => new Winch(), { surface });
isTrue<Same<typeof late, Deferred<Winch>>>();
const hauled: Promise<number> = late.haul(3);
void hauled;
// @ts-expect-error
late.load;
isTrue<Same<ReturnType<typeof proxy<Winch>>, Winch>>();
// @ts-expect-error
proxy(() => new Winch(), { surface: { haul: "method" } });

// The names of a bridge are typed.
const channel: Bridge<Winch, "steam" | "hand"> = bridge<Winch, "steam" | "hand">(
  { steam: new Winch(), hand: () => new Winch() },
  { start: "hand" },
);
// @ts-expect-error
void channel.use("horse");
const refined = channel.refine((port) => ({ twice: (metres: number) => port.haul(port.haul(metres)) }));
isTrue<Same<typeof refined.twice, (metres: number) => number>>();
isTrue<Same<typeof refined.load, 4>>();

// A facade types each step by the input and earlier results, and its refusals by their reasons.
const office = facade({ winch: new Winch() }, (operation) => ({
  lift: operation<{ readonly tons: number }>()
    .steps({
      length: async ({ winch }, { input }) =>
        input.tons > 9 ? refuse("too heavy" as const) : winch.haul(input.tons),
      other: ({ winch }) => winch.load,
    })
    .steps({
      done: undoable(
        (_, { length, other }) => ({ sum: length + other }),
        ({ winch }, { sum }) => winch.haul(sum),
      ),
    })
    .returns(({ done }) => done.sum),
  load: ({ winch }, factor: number) => winch.load * factor,
}));
const lifted = office.lift({ tons: 3 });
isTrue<Same<typeof lifted, Promise<number | Refusal<"too heavy">>>>();
isTrue<Same<ReturnType<typeof office.load>, number>>();
// @ts-expect-error
void office.lift({ tonnes: 3 });
facade({}, (operation) => ({
  // @ts-expect-error
  wrong: operation<number>().steps({ early: (_, { later }) => later }),
}));

// Adapters of functions, of classes, and in both directions.
adapter<(metres: number) => string, (feet: number) => number>((inner, metres) => String(inner(metres)));
// @ts-expect-error
adapter<(metres: number) => string, (feet: number) => number>((inner, metres) => inner(metres));
const Adapted = classAdapter<new (kind: string) => { pull(): number }, typeof Winch>(Winch, {
  new: (Outside) => new Outside(),
  members: { pull: (winch) => winch.haul(1) },
});
isTrue<Same<InstanceType<typeof Adapted>, { pull(): number }>>();
twoWay<{ pull(): number }, Winch>({
  fromOutside: { pull: (winch) => winch.haul(1) },
  // @ts-expect-error
  toOutside: { haul: (puller) => puller.pull() },
});
const stand: Tides = stub<Tides>([]);
void stand;

// Layers that wait take the target as their type parameter, as a guard does, or infer their members.
interface Http {
  readonly base: string;
  get(url: string): Promise<number>;
  close(): void;
}
declare const http: Http;
decorate(
  http,
  retrying<Http>({ only: ["get"] }),
  waiting<Http>({ only: ["get"], until: (status: number) => status < 400 }),
  limited<Http>({ only: ["get"], timeout: "2s" }),
);
// @ts-expect-error
retrying<Http>({ only: ["close"] });
// @ts-expect-error
limited<Http>({ only: ["base"] });

// A stack fits what each of its layers fits.
const mixed = stack(
  retrying({ only: ["get"] }),
  guard<Pick<Http, "close">>({ close: [] }),
  cached({ only: ["get"], ttl: "1m", clearedBy: ["close"] }),
);
decorate(http, mixed);
// @ts-expect-error
decorate({ get: async (url: string) => url.length }, mixed);
// @ts-expect-error
decorate(http, stack(logging({ fields: (request: { readonly id: string }) => ({ id: request.id }) })));
