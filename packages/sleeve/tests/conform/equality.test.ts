import { compare, contract } from "sleeve/conform";
import { describe, expect, test } from "vitest";

/** Whether a contract accepts the result of the second function for that of the first. */
async function isAccepted(expected: () => unknown, found: () => unknown): Promise<boolean> {
  const { agrees, finding } = await compare(
    contract<{ value(): unknown }>("Value", { surface: { value: "method" } }),
    { reference: () => ({ value: expected }), candidate: () => ({ value: found }) },
    { runs: 5, length: 2 },
  );
  if (finding) expect(finding.name).toBe("result");
  return agrees;
}

const bytes = (...values: readonly number[]) => Uint8Array.from(values).buffer;
const shared = (...values: readonly number[]) => {
  const buffer = new SharedArrayBuffer(values.length);
  new Uint8Array(buffer).set(values);
  return buffer;
};
const loop = (name: string) => {
  const value: { name: string; self?: unknown } = { name };
  value.self = value;
  return value;
};
const sparse = (...indices: readonly number[]) => {
  const list: number[] = new Array(4);
  for (const index of indices) list[index] = index;
  return list;
};
const matched = (lastIndex: number) => Object.assign(/a/g, { lastIndex });

class Sealed {
  readonly #depth: number;
  constructor(depth: number) {
    this.#depth = depth;
  }
  toJSON() {
    return { depth: this.#depth };
  }
}

/** Two equal values and a third that differs, each created anew. */
const TABLE: Readonly<Record<string, readonly [() => unknown, () => unknown]>> = {
  number: [() => 1, () => 2],
  "negative zero": [() => -0, () => 0],
  NaN: [() => Number.NaN, () => 0],
  bigint: [() => 1n, () => 2n],
  string: [() => "a", () => "b"],
  boolean: [() => true, () => false],
  null: [() => null, () => undefined],
  symbol: [() => Symbol.for("a"), () => Symbol.for("b")],
  "plain object": [() => ({ a: 1, b: [2] }), () => ({ a: 1, b: [3] })],
  "object with a missing field": [() => ({ a: undefined }), () => ({})],
  array: [() => [1, 2], () => [2, 1]],
  "sparse array": [() => sparse(1), () => sparse(1, 2)],
  "hole and undefined": [() => new Array(1), () => [undefined]],
  "array with a property": [() => Object.assign([1], { index: 1 }), () => Object.assign([1], { index: 2 })],
  cycle: [() => loop("a"), () => loop("b")],
  Date: [() => new Date(5), () => new Date(6)],
  "invalid Date": [() => new Date(Number.NaN), () => new Date(0)],
  Map: [() => new Map([["a", { b: 1 }]]), () => new Map([["a", { b: 2 }]])],
  Set: [() => new Set([1, 2]), () => new Set([1, 3])],
  ArrayBuffer: [() => bytes(1, 2, 3), () => bytes(9, 9, 9)],
  SharedArrayBuffer: [() => shared(1, 2), () => shared(1, 3)],
  DataView: [() => new DataView(bytes(1, 2, 3), 1), () => new DataView(bytes(1, 2, 4), 1)],
  Buffer: [() => Buffer.from("ab"), () => Buffer.from("ac")],
  "boxed Number": [() => Object(1), () => Object(2)],
  "boxed String": [() => Object("a"), () => Object("b")],
  "boxed Boolean": [() => Object(true), () => Object(false)],
  "boxed BigInt": [() => Object(1n), () => Object(2n)],
  "boxed Symbol": [() => Object(Symbol.for("a")), () => Object(Symbol.for("b"))],
  RegExp: [() => /a/g, () => /a/i],
  "RegExp with lastIndex": [() => matched(1), () => matched(2)],
  URL: [() => new URL("http://a.test/b"), () => new URL("http://a.test/c")],
  URLSearchParams: [() => new URLSearchParams("a=1"), () => new URLSearchParams("a=2")],
  Headers: [() => new Headers({ a: "1" }), () => new Headers({ a: "2" })],
  FormData: [() => formOf("1"), () => formOf("2")],
  Blob: [() => new Blob(["ab"]), () => new Blob(["abc"])],
  "type of a Blob": [() => new Blob(["a"], { type: "text/a" }), () => new Blob(["a"], { type: "text/b" })],
  Error: [() => new RangeError("a"), () => new RangeError("b")],
  "class of an Error": [() => new RangeError("a"), () => new TypeError("a")],
  "cause of an Error": [
    () => new Error("a", { cause: new Error("b") }),
    () => new Error("a", { cause: new Error("c") }),
  ],
  AggregateError: [() => new AggregateError([new Error("a")]), () => new AggregateError([new Error("b")])],
  "instance of a class": [() => new Place(1), () => new Place(2)],
  "private field with a JSON form": [() => new Sealed(1), () => new Sealed(2)],
};

class Place {
  readonly line: number;
  constructor(line: number) {
    this.line = line;
  }
}

function formOf(value: string): FormData {
  const form = new FormData();
  form.set("a", value);
  return form;
}

const TYPED_ARRAYS = [
  Int8Array, Uint8Array, Uint8ClampedArray, Int16Array, Uint16Array, Int32Array, Uint32Array, Float32Array, Float64Array,
]; // biome-ignore format: a list

describe("contract equality distinguishes the content of every built-in", () => {
  test("the table is complete", () => {
    expect([Object.keys(TABLE).length, TYPED_ARRAYS.length]).toEqual([42, 9]);
  });

  test.each(Object.entries(TABLE))("%s", async (_, [value, other]) => {
    expect(await isAccepted(value, value)).toBe(true);
    expect(await isAccepted(value, other)).toBe(false);
    expect(await isAccepted(other, value)).toBe(false);
  });

  test.each(TYPED_ARRAYS)("%o", async (TypedArray) => {
    expect(
      await isAccepted(
        () => TypedArray.of(1, 2),
        () => TypedArray.of(1, 2),
      ),
    ).toBe(true);
    expect(
      await isAccepted(
        () => TypedArray.of(1, 2),
        () => TypedArray.of(1, 3),
      ),
    ).toBe(false);
    expect(
      await isAccepted(
        () => TypedArray.of(1, 2),
        () => [1, 2],
      ),
    ).toBe(false);
  });

  test.each([BigInt64Array, BigUint64Array])("%o", async (TypedArray) => {
    expect(
      await isAccepted(
        () => TypedArray.of(1n),
        () => TypedArray.of(1n),
      ),
    ).toBe(true);
    expect(
      await isAccepted(
        () => TypedArray.of(1n),
        () => TypedArray.of(2n),
      ),
    ).toBe(false);
  });
});
