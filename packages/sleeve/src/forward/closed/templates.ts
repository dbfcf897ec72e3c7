import type { Member } from "../../surface/member.ts";
import type { Call, Next } from "../call.ts";

type Forwarder = (this: Forwarding, ...args: unknown[]) => unknown;
type Adapter = (this: Adapting, ...args: unknown[]) => unknown;
type Method = (...args: readonly unknown[]) => unknown;
type OwnMethod = (wrapper: object, value: Method) => unknown;
type Translation = (adaptee: object, ...args: unknown[]) => unknown;
type Subject = Record<PropertyKey, unknown>;

/** Handles a use whose `this` is not a wrapper: a borrowed method, or an object that inherits from a wrapper. */
type Borrow = (receiver: unknown, args: readonly unknown[], target?: unknown) => unknown;

/** Returns arguments with the subject in place of the wrapper. */
type Exchange = (args: readonly unknown[], wrapper: unknown, subject: unknown) => readonly unknown[];

/** Runs before a call that a layer watches. The result, if any, receives the outcome. */
type Watcher = (call: Call) => unknown;

/** What a watched call does with the result of its watcher. */
export interface WatchUses {
  /** Reports an error of the watcher. */
  readonly report: (error: unknown) => void;
  /** Whether the result runs the call: it is neither a function nor a watch of failures. */
  readonly isAround: (watch: unknown) => boolean;
  readonly around: (watch: unknown, next: Next, call: Call) => unknown;
  readonly threw: (watch: unknown, error: unknown) => void;
  /** Waits for a value that may be pending. */
  readonly settles: (watch: unknown, value: object) => void;
  /** Handles what a watch of a returned value gave, which may be a promise. */
  readonly answered: (answer: unknown) => void;
}

/** Creates a block of templates on demand. */
type Block<Template> = () => readonly Template[];

/**
 * Holds the subject of a wrapper where only forwarding functions can read it.
 *
 * The static lists, and those below, are the call-site templates; `forwarders.ts` explains why there are many. Here each list
 * has one block with one template. The build (`scripts/repeat-templates.mjs`) writes out the final number of copies, and each
 * block is created when its first template is taken.
 *
 * A template is kept short, because engines inline a limited number of instructions into one caller. Only methods that may
 * compare an argument with their subject pay for the exchange of the wrapper in their arguments. This file imports nothing, so
 * that it is bundled alone.
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

  /** Calls of methods that can only be called. */
  static readonly calls: readonly Block<(key: PropertyKey, borrow: Borrow) => Forwarder>[] = [
    () => [
      (key, borrow) =>
        ({
          m(this: Forwarding, ...args: unknown[]): unknown {
            let subject: Subject;
            try {
              subject = this.#s;
            } catch {
              return borrow(this, args);
            }
            const result = (subject[key] as Method)(...args);
            return typeof result === "object" && result === subject ? this : result;
          },
        }).m,
    ],
  ];

  /** Calls of methods that may compare an argument with their subject. */
  static readonly comparisons: readonly Block<
    (key: PropertyKey, borrow: Borrow, exchange: Exchange) => Forwarder
  >[] = [
    () => [
      (key, borrow, exchange) =>
        ({
          m(this: Forwarding, ...args: unknown[]): unknown {
            let subject: Subject;
            try {
              subject = this.#s;
            } catch {
              return borrow(this, args);
            }
            if (
              typeof args[0] === "object" ||
              typeof args[1] === "object" ||
              typeof args[2] === "object" ||
              args.length > 3
            ) {
              const value = exchange(args, this, subject);
              const result = (subject[key] as Method)(...value);
              return typeof result === "object" && result === subject ? this : result;
            }
            const result = (subject[key] as Method)(...args);
            return typeof result === "object" && result === subject ? this : result;
          },
        }).m,
    ],
  ];

  /** Calls of functions that can be constructed too. `this` is then a new object, and not a wrapper. */
  static readonly functions: readonly Block<(key: PropertyKey, borrow: Borrow) => Forwarder>[] = [
    () => [
      (key, borrow) =>
        function (...args) {
          let subject: Subject;
          try {
            subject = this.#s;
          } catch {
            return borrow(this, args, new.target);
          }
          const result = (subject[key] as Method)(...args);
          return typeof result === "object" && result === subject ? this : result;
        },
    ],
  ];

  static readonly passes: readonly Block<(key: PropertyKey, borrow: Borrow) => Next>[] = [
    () => [
      (key, borrow) => (call) => {
        const wrapper = call.wrapper as Forwarding;
        const args = call.args;
        let subject: Subject;
        try {
          subject = wrapper.#s;
        } catch {
          return borrow(wrapper, args);
        }
        // Few arguments are passed without a spread, which is faster.
        let result: unknown;
        if (args.length === 1) result = (subject[key] as Method)(args[0]);
        else if (args.length === 2) result = (subject[key] as Method)(args[0], args[1]);
        else if (args.length === 0) result = (subject[key] as Method)();
        else result = (subject[key] as Method)(...args);
        return typeof result === "object" && result === subject ? wrapper : result;
      },
    ],
  ];

  static readonly reads: readonly Block<
    (key: PropertyKey, borrow: Borrow, method: OwnMethod | undefined) => Forwarder
  >[] = [
    () => [
      (key, borrow, method) =>
        function () {
          let subject: Subject;
          try {
            subject = this.#s;
          } catch {
            return borrow(this, []);
          }
          const value = subject[key];
          if (typeof value === "object") return value === subject ? this : value;
          return typeof value === "function" && method ? method(this, value as Method) : value;
        },
    ],
  ];

  static readonly writes: readonly Block<(key: PropertyKey, borrow: Borrow) => Forwarder>[] = [
    () => [
      (key, borrow) =>
        function (value) {
          let subject: Subject;
          try {
            subject = this.#s;
          } catch {
            return borrow(this, [value]);
          }
          subject[key] = typeof value === "object" && value === this ? subject : value;
          return undefined;
        },
    ],
  ];
}

/** Holds the adaptee of an adapter's wrapper where only the members of the wrapper can read it. */
export class Adapting {
  readonly #a: Subject;

  constructor(adaptee: object) {
    this.#a = adaptee as Subject;
  }

  /** Returns the adaptee of a wrapper, or `undefined` if the object is not the wrapper of an adapter. */
  static adapteeOf(wrapper: object): object | undefined {
    return #a in wrapper ? wrapper.#a : undefined;
  }

  /** Calls of methods that the adaptee has under a name. */
  static readonly namedCalls: readonly Block<(key: PropertyKey, borrow: Borrow) => Adapter>[] = [
    () => [
      (key, borrow) =>
        ({
          m(this: Adapting, ...args: unknown[]): unknown {
            let adaptee: Subject;
            try {
              adaptee = this.#a;
            } catch {
              return borrow(this, args);
            }
            const result = (adaptee[key] as Method)(...args);
            return typeof result === "object" && result === adaptee ? this : result;
          },
        }).m,
    ],
  ];

  /** Reads of properties that the adaptee has under a name. */
  static readonly namedReads: readonly Block<(key: PropertyKey, borrow: Borrow) => Adapter>[] = [
    () => [
      (key, borrow) =>
        function () {
          let adaptee: Subject;
          try {
            adaptee = this.#a;
          } catch {
            return borrow(this, []);
          }
          const value = adaptee[key];
          return typeof value === "object" && value === adaptee ? this : value;
        },
    ],
  ];

  static readonly translations: readonly Block<(translation: Translation, borrow: Borrow) => Adapter>[] = [
    () => [
      (translation, borrow) =>
        function (...args) {
          let adaptee: Subject;
          try {
            adaptee = this.#a;
          } catch {
            return borrow(this, args);
          }
          return translation(adaptee, ...args);
        },
    ],
  ];
}

/** Methods that pass their calls to layers. */
export const entries: readonly Block<(outermost: Next, member: Member) => Method>[] = [
  () => [
    (outermost, member) =>
      ({
        m(this: object, ...args: unknown[]): unknown {
          return outermost({ member, args, wrapper: this, context: undefined });
        },
      }).m,
  ],
];

/** Calls that a layer watches. */
export const watches: readonly Block<(next: Next, watcher: Watcher, uses: WatchUses) => Next>[] = [
  () => [
    (next, watcher, uses) => (call) => {
      let watch: unknown;
      try {
        watch = watcher(call);
      } catch (error) {
        uses.report(error);
      }
      if (watch === undefined) return next(call);
      if (uses.isAround(watch)) return uses.around(watch, next, call);
      let value: unknown;
      try {
        value = next(call);
      } catch (error) {
        uses.threw(watch, error);
        throw error;
      }
      if (typeof value === "object" && value !== null) uses.settles(watch, value);
      else if (typeof watch === "function") {
        try {
          const answer: unknown = watch({ status: "returned", value });
          if (typeof answer === "object") uses.answered(answer);
        } catch (error) {
          uses.report(error);
        }
      }
      return value;
    },
  ],
];
