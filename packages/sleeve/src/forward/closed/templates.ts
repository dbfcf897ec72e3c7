import type { Next } from "../call.ts";

type Forwarder = (this: Forwarding, ...args: unknown[]) => unknown;
type Method = (...args: readonly unknown[]) => unknown;
type OwnMethod = (wrapper: object) => unknown;
type Translation = (adaptee: object, ...args: unknown[]) => unknown;
type Subject = Record<PropertyKey, unknown>;

/** Creates a block of templates on demand. */
type Block<Template> = () => readonly Template[];

/**
 * Holds the subject of a wrapper where only forwarding functions can read it.
 *
 * The static lists are the call-site templates; `forwarders.ts` explains why there are many. Here each list has one
 * block with one template. The build (`scripts/repeat-templates.mjs`) writes out the final number of copies, and each
 * block is created when its first template is taken.
 */
export class Forwarding {
  readonly #s: Subject;

  constructor(subject: object) {
    this.#s = subject as Subject;
  }

  /** Returns the subject of a wrapper, or `undefined` if the object is not a wrapper. */
  static subjectOf(wrapper: object): object | undefined {
    return #s in wrapper ? wrapper.#s : undefined;
  }

  static readonly calls: readonly Block<(key: PropertyKey) => Forwarder>[] = [
    () => [
      (key) =>
        function (...args) {
          const subject = this.#s;
          const result = (subject[key] as Method)(...args);
          return typeof result === "object" && result === subject ? this : result;
        },
    ],
  ];

  static readonly passes: readonly Block<(key: PropertyKey) => Next>[] = [
    () => [
      (key) => (call) => {
        const wrapper = call.wrapper as Forwarding;
        const args = call.args;
        const subject = wrapper.#s;
        // Few arguments are passed without a spread, which is faster.
        const result =
          args.length === 1
            ? (subject[key] as Method)(args[0])
            : args.length === 2
              ? (subject[key] as Method)(args[0], args[1])
              : args.length === 0
                ? (subject[key] as Method)()
                : (subject[key] as Method)(...args);
        return typeof result === "object" && result === subject ? wrapper : result;
      },
    ],
  ];

  static readonly reads: readonly Block<(key: PropertyKey, method: OwnMethod | undefined) => Forwarder>[] = [
    () => [
      (key, method) =>
        function () {
          const subject = this.#s;
          const value = subject[key];
          if (typeof value === "object") return value === subject ? this : value;
          return typeof value === "function" && method ? method(this) : value;
        },
    ],
  ];

  static readonly writes: readonly Block<(key: PropertyKey) => Forwarder>[] = [
    () => [
      (key) =>
        function (value) {
          this.#s[key] = value;
        },
    ],
  ];

  static readonly translations: readonly Block<(translation: Translation) => Forwarder>[] = [
    () => [
      (translation) =>
        function (...args) {
          return translation(this.#s, ...args);
        },
    ],
  ];
}
