import { between, decorate, guard, layer, logging, timing, withArguments } from "sleeve";

const silent = { info: () => {}, error: () => {}, isLevelEnabled: () => false };
const sink = { last: undefined };
const onSample = (sample) => {
  sink.last = sample;
};

const names = Array.from({ length: 12 }, (_, index) => `level${index}`);

/** A class with twelve members, and the same with three or six layers fused into each by hand. */
const source = (index) => `
  class Gauge${index} {
    zero = ${index};
    ${names.map((name, at) => `${name}(hour) { return (hour * ${at + 3} + this.zero) & 0xffff; }`).join("\n")}
  }
  class Three${index} {
    #gauge;
    constructor(gauge) { this.#gauge = gauge; }
    ${names.map((name) => fused(name, 3)).join("\n")}
  }
  class Six${index} {
    #gauge;
    constructor(gauge) { this.#gauge = gauge; }
    ${names.map((name) => fused(name, 6)).join("\n")}
  }`;

/** Logging at a level that is off, timing and a check; and with six, a second timing and two changes. */
const fused = (name, layers) => `
  ${name}(hour) {
    if (silent.isLevelEnabled("info")) throw new Error("the level is off");
    const start = performance.now();
    ${layers === 6 ? "const second = performance.now();" : ""}
    try {
      if (typeof hour !== "number" || !(hour >= 0 && hour <= 23)) throw new RangeError("${name}: hour is not between 0 and 23");
      const result = this.#gauge.${name}(${layers === 6 ? "hour < 0 ? 0 : hour" : "hour"});
      ${layers === 6 ? `onSample({ member: "${name}", status: "returned", start: second, milliseconds: performance.now() - second });` : ""}
      onSample({ member: "${name}", status: "returned", start, milliseconds: performance.now() - start });
      return ${layers === 6 ? "Math.min(result, 60000)" : "result"};
    } catch (error) {
      ${layers === 6 ? `onSample({ member: "${name}", status: "threw", start: second, milliseconds: performance.now() - second });` : ""}
      onSample({ member: "${name}", status: "threw", start, milliseconds: performance.now() - start });
      silent.error({ member: "${name}", event: "threw", error }, "${name} threw");
      throw error;
    }
  }`;

function classesOf(count) {
  const indexes = Array.from({ length: count }, (_, index) => index);
  const code = `${indexes.map(source).join("\n")}
    return [${indexes.map((index) => `[Gauge${index}, Three${index}, Six${index}]`)}];`;
  return new Function("silent", "onSample", code)(silent, onSample);
}

const checks = Object.fromEntries(names.map((name) => [name, [between(0, 23)]]));
const three = () => [logging({ logger: silent }), timing({ onSample }), guard(checks)];
const six = () => [
  logging({ logger: silent }),
  timing({ onSample }),
  timing({ onSample }),
  layer("bounded", { call: (next) => (call) => Math.min(next(call), 60_000) }),
  guard(checks),
  layer("notNegative", {
    call: (next) => (call) => next(withArguments(call, [call.args[0] < 0 ? 0 : call.args[0]])),
  }),
];

/** Calls members, each in a place of its own, as client code does. */
function client(objects, members, times) {
  const calls = objects.flatMap((_, at) =>
    members.map((name) => `total = (total + objects[${at}].${name}(time & 15)) | 0;`),
  );
  return new Function(
    "objects",
    `return () => { let total = 0; for (let time = 0; time < ${times}; time++) { ${calls.join("\n")} } return total; }`,
  )(objects);
}

/** The same calls, with each member in a function of its own. */
function clients(objects, times) {
  const runs = objects.flatMap((object) => names.map((name) => client([object], [name], times)));
  return () => {
    let total = 0;
    for (const run of runs) total += run();
    return total;
  };
}

function contenders(count, stack, at, clientOf) {
  const classes = classesOf(count);
  const layered = classes.map(([Gauge]) => decorate(new Gauge(), ...stack()));
  const written = classes.map((all) => new all[at](new all[0]()));
  return [clientOf(layered), clientOf(written)];
}

/** Generated decorators with the same three layers. */
async function generatedContenders(count, clientOf) {
  const classes = classesOf(count);
  const gauges = Array.from(
    { length: count },
    (_, index) => `export class Gauge${index} {
      zero = ${index};
      ${names.map((name, at) => `${name}(hour: number): number { return (hour * ${at + 3} + this.zero) & 0xffff; }`).join("\n")}
    }`,
  );
  // Not for the bundler of the page.
  const { loadDecorators } = await import(
    /* @vite-ignore */ new URL("../generated.mjs", import.meta.url).href
  );
  const { generated } = await loadDecorators(gauges.join("\n"), count, ["logging", "timing", "guard"]);
  const layers = { logging: { logger: silent }, timing: { onSample }, guard: checks };
  const made = classes.map(([Gauge], index) => new generated[index](new Gauge(), layers));
  const written = classes.map(([Gauge, Three]) => new Three(new Gauge()));
  return [clientOf(made), clientOf(written)];
}

export const rows = {
  "stack.generated": {
    against: "logging that is off, timing and a check, fused by hand",
    isOfNode: true,
    make: () => generatedContenders(1, (objects) => client(objects, ["level0"], 20_000)),
  },
  "stack.generated.row": {
    against: "the same, twelve members in a row",
    isOfNode: true,
    make: () => generatedContenders(1, (objects) => client(objects, names, 2_000)),
  },
  "stack.generated.population": {
    against: "the same, 40 classes of 12 members",
    isOfNode: true,
    make: () => generatedContenders(40, (objects) => clients(objects, 50)),
  },
  "stack.three": {
    against: "logging that is off, timing and a check, fused by hand",
    make: () => contenders(1, three, 1, (objects) => client(objects, ["level0"], 20_000)),
  },
  "stack.three.row": {
    against: "the same, twelve members in a row",
    make: () => contenders(1, three, 1, (objects) => client(objects, names, 2_000)),
  },
  "stack.three.population": {
    against: "the same, 40 classes of 12 members",
    make: () => contenders(40, three, 1, (objects) => clients(objects, 50)),
  },
  "stack.six": {
    against: "the same with a second timing and two changes, fused by hand",
    make: () => contenders(1, six, 2, (objects) => client(objects, ["level0"], 20_000)),
  },
};
