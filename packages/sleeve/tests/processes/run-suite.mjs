// Run by package-suites.test.ts: runs the test suite of a package, with what the package exports wrapped.
import { readdirSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join, sep } from "node:path";
import { access, decorate, decorateClass, deep, logging, open, timing } from "sleeve";

const require = createRequire(import.meta.url);
const Module = require("node:module");

const silent = { info() {}, error() {} };
const stacks = {
  empty: () => [],
  watched: () => [logging({ logger: silent }), timing({ onSample() {} })],
  open: () => [open()],
  deep: () => [deep()],
  access: () => [access(() => true)],
  "deep-access": () => [deep(), access(() => true)],
};

const [, , name, way, stack] = process.argv;
const layers = way === "bare" ? [] : stacks[stack]();
const isClass = (subject) =>
  typeof subject === "function" && /^class\b|\{ \[native code\] \}$/.test(String(subject));
const wrapped = (subject) =>
  isClass(subject) && Object.hasOwn(subject, "prototype")
    ? decorateClass(subject, ...layers)
    : decorate(subject, ...layers);

/** Wraps what a function or class creates, and leaves the function or class itself as it is. */
function wrappingResults(original) {
  function Wrapping(...args) {
    const made = new.target ? new original(...args) : original(...args);
    return Object(made) === made ? wrapped(made) : made;
  }
  Object.setPrototypeOf(Wrapping, original);
  Wrapping.prototype = original.prototype;
  return Object.defineProperties(Wrapping, {
    name: { value: original.name },
    length: { value: original.length },
  });
}

let count = 0;
const counted = (wrapping) => (value) => {
  count += 1;
  return wrapping(value);
};

const ways = { bare: (value) => value, exports: counted(wrapped), results: counted(wrappingResults) };
const wrap = ways[way];

/** Tests that repeat an operation a million times, which takes minutes through a membrane. */
const SLOW = { bl: ["uninitialized memory"] };

function skipSlowTests() {
  const tape = require("tape");
  const add = tape.Test.prototype.run;
  tape.Test.prototype.run = function () {
    if (SLOW[name]?.includes(this.name)) this._skip = true;
    return add.call(this);
  };
}

/** Runs all test files of a package. */
function runTests() {
  skipSlowTests();
  const folder = dirname(require.resolve(`${name}/package.json`));
  const files = readdirSync(folder).includes("test.js")
    ? ["test.js"]
    : readdirSync(join(folder, "test")).flatMap((file) => (file.endsWith(".js") ? [`test/${file}`] : []));
  runTestFiles(...files);
}

/** Runs test files of a package, which get the wrapped exports when they require the package. */
function runTestFiles(...files) {
  const main = require.resolve(name.endsWith("events") ? "events/" : name);
  const folder = `${sep}${name}${sep}`;
  const load = Module._load;
  const shown = new Map();
  Module._load = function (request, parent, ...rest) {
    const exports = load.call(this, request, parent, ...rest);
    const isTest = /^tests?([\\/]|\.js$)/.test(parent?.filename?.split(folder).at(-1) ?? "");
    const isMain = isTest && Module._resolveFilename(request, parent) === main;
    if (!isMain) return exports;
    if (!shown.has(exports)) shown.set(exports, wrap(exports));
    return shown.get(exports);
  };
  for (const file of files) require(join(dirname(require.resolve(`${name}/package.json`)), file));
}

const runs = {
  events: () => runTestFiles("tests/index.js"),
  "tiny-emitter": () => runTestFiles("test/index.js"),
  "side-channel": () => runTestFiles("test/index.js"),
  minimist: () =>
    runTestFiles(
      ...[
        "all_bool",
        "bool",
        "dash",
        "default_bool",
        "dotted",
        "kv_short",
        "long",
        "num",
        "parse",
        "parse_modified",
        "proto",
        "short",
        "stop_early",
        "unknown",
        "whitespace",
      ].map((file) => `test/${file}.js`),
    ),
  mutexify: () => runTestFiles("test.js"),
  "memory-chunk-store": () => {
    const Store = wrap(require("memory-chunk-store"));
    require("abstract-chunk-store/tests")(require("tape"), Store);
  },
  "memory-level": () => {
    const { MemoryLevel } = require("memory-level");
    const Level = way === "exports" ? wrap(MemoryLevel) : MemoryLevel;
    const factory = (options) =>
      way === "results" ? counted(wrapped)(new Level(options)) : new Level(options);
    require("abstract-level/test")({ test: require("tape"), factory });
  },
  "promises-aplus-tests": () => {
    const Later = way === "exports" ? wrap(Promise) : Promise;
    const shown = way === "results" ? counted(wrapped) : (promise) => promise;
    process.on("unhandledRejection", () => {});
    const adapter = {
      resolved: (value) => shown(Later.resolve(value)),
      rejected: (error) => shown(Later.reject(error)),
      deferred() {
        const deferred = {};
        deferred.promise = shown(
          new Later((resolve, reject) => {
            Object.assign(deferred, { resolve, reject });
          }),
        );
        return deferred;
      },
    };
    // The timeout of a test is 200 ms by default, which a busy machine may exceed.
    require("promises-aplus-tests")(adapter, { reporter: "tap", timeout: 20_000 }, () => {});
  },
};
process.on("exit", () => process.stderr.write(`wrapped ${count}\n`));
(runs[name] ?? runTests)();
