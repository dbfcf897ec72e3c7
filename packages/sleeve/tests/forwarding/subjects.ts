/** Subjects of many kinds, each with the uses of a client. */

const DEPTH = Symbol("depth");
const PLAIN = Symbol("plain");

class Secretive {
  #count = 0;
  static created = 0;
  readonly [Symbol.toStringTag] = "Secretive";
  open = true;
  get count(): number {
    return this.#count;
  }
  set count(value: number) {
    this.#count = value;
  }
  add(amount: number, ...more: number[]): this {
    this.#count += amount + more.reduce((sum, value) => sum + value, 0);
    return this;
  }
  *[Symbol.iterator](): Generator<number> {
    for (let value = 0; value < this.#count; value++) yield value;
  }
  async later(value: unknown): Promise<unknown> {
    return value;
  }
  fail(error: unknown): never {
    throw error;
  }
  [Symbol.toPrimitive](): number {
    return this.#count;
  }
}

class Inheriting extends Secretive {
  override add(amount: number): this {
    return super.add(amount * 2);
  }
  own(): string {
    return "own";
  }
}

export interface SubjectCase {
  readonly name: string;
  readonly create: () => object;
  /** A use by a client; it must have the same outcome on a subject and on its wrapper. */
  readonly uses: readonly ((subject: never) => unknown)[];
}

function subjectCase<Subject extends object>(
  name: string,
  create: () => Subject,
  ...uses: readonly ((subject: Subject) => unknown)[]
): SubjectCase {
  return { name, create, uses };
}

const counting = [
  (subject: Secretive) => subject.add(3).add(2, 1).count,
  (subject: Secretive) => {
    subject.count = 7;
    return [...subject];
  },
  (subject: Secretive) => `${subject}`,
  (subject: Secretive) => Object.prototype.toString.call(subject),
  (subject: Secretive) => subject.add.length,
  (subject: Secretive) => subject.add.name,
  (subject: Secretive) => subject instanceof Secretive,
  (subject: Secretive) => subject.constructor,
  (subject: Secretive) => {
    subject.open = false;
    return [subject.open, Object.keys(subject), "add" in subject, Object.hasOwn(subject, "open")];
  },
  (subject: Secretive) => subject.later("x"),
  (subject: Secretive) => subject.fail(new RangeError("same")),
];

export const subjects: readonly SubjectCase[] = [
  subjectCase("a class with private fields", () => new Secretive(), ...counting),
  subjectCase(
    "a subclass",
    () => new Inheriting(),
    ...counting,
    (subject) => subject.own(),
  ),
  subjectCase(
    "a plain object",
    () => ({
      name: "bell",
      rings: 0,
      ring() {
        return ++this.rings;
      },
      get loud() {
        return this.rings > 1;
      },
    }),
    (subject) => [subject.ring(), subject.ring(), subject.rings, subject.loud],
    (subject) => JSON.stringify(subject),
    (subject) => Object.keys(subject),
    (subject) => ({ ...subject }).name,
    (subject) => {
      subject.name = "horn";
      return subject.name;
    },
    (subject) => {
      subject.ring = () => 99;
      return subject.ring();
    },
  ),
  subjectCase(
    "a frozen object",
    () => Object.freeze({ depth: 4, sound: () => "ping" }),
    (subject) => [subject.depth, subject.sound(), Object.isFrozen(subject), Object.isExtensible(subject)],
    (subject) => Reflect.set(subject, "depth", 5),
  ),
  subjectCase(
    "an object without a prototype",
    () =>
      Object.assign(Object.create(null), { berth: 4, name: () => "x" }) as { berth: number; name(): string },
    (subject) => [subject.berth, subject.name(), "toString" in subject, subject instanceof Object],
  ),
  subjectCase(
    "a Map",
    () => new Map([["a", 1]]),
    (subject) => subject.set("b", 2).set("c", 3).size,
    (subject) => [...subject.entries(), subject.get("a"), subject.has("z")],
    (subject) => subject instanceof Map,
    (subject) => [...subject],
  ),
  subjectCase(
    "a Set",
    () => new Set([1]),
    (subject) => [subject.add(2).size, ...subject],
    (subject) => subject.delete(1),
  ),
  subjectCase(
    "a Date",
    () => new Date(0),
    (subject) => [subject.toISOString(), subject.getTime(), +subject, `${subject}`, JSON.stringify(subject)],
  ),
  subjectCase(
    "a URL",
    () => new URL("https://ellery.example/a?b=1"),
    (subject) => {
      subject.pathname = "/tides";
      return [subject.href, subject.searchParams.get("b"), String(subject)];
    },
  ),
  subjectCase(
    "typed data",
    () => new DataView(new ArrayBuffer(8)),
    (subject) => {
      subject.setInt16(0, 258);
      return [subject.getUint8(0), subject.byteLength];
    },
  ),
  subjectCase(
    "an async generator",
    () =>
      (async function* () {
        yield 1;
        yield 2;
      })(),
    async (subject) => {
      const seen: number[] = [];
      for await (const item of subject) seen.push(item);
      return seen;
    },
  ),
  subjectCase(
    "one that keys members by symbol",
    () => ({ [DEPTH]: () => 4, [PLAIN]: 1 }),
    (subject) => [subject[DEPTH](), subject[PLAIN], Object.getOwnPropertySymbols(subject)],
  ),
  subjectCase(
    "an object that holds a class",
    () => ({ Secretive }),
    (subject) => new subject.Secretive().add(1).count,
  ),
];
