import type { SleeveError } from "../shared/errors.ts";
import { NativePromise, promiseThen } from "../shared/intrinsics.ts";
import { onSettled } from "../shared/outcome.ts";

/** How a slot creates and releases its subject. */
export interface SubjectSlotOptions<Subject extends object> {
  /** Creates a subject when the slot is used while empty. */
  readonly make: () => Subject | Promise<Subject>;
  /** Releases a subject that was replaced or cleared and is idle. */
  readonly release?: ((subject: Subject) => unknown) | undefined;
  /** Whether `make` is known to return promises. Default: known after it has returned one. */
  readonly isAsync?: boolean;
  /** Whether results of calls made before a revocation are withheld after it. */
  readonly isRevocable?: boolean;
}

/** A subject with the number of its calls in flight. */
interface SlotEntry<Subject> {
  readonly subject: Subject;
  inFlight: number;
  idle: (() => void) | undefined;
  /** Ends a call in flight. One function for all calls. */
  readonly leave: () => void;
}

/**
 * Holds the subject of a wrapper, which is looked up on each use, so that it can be created late, replaced
 * and revoked.
 *
 * Calls in flight stay with the subject they started in. A call is over when it returns or its promise
 * settles. Iterators are not waited for, because they may never be read to the end.
 */
export class SubjectSlot<Subject extends object> {
  readonly #options: SubjectSlotOptions<Subject>;
  #current: SlotEntry<Subject> | undefined;
  #making: Promise<SlotEntry<Subject>> | undefined;
  #ended: SleeveError | undefined;
  #isAsync: boolean;

  constructor(options: SubjectSlotOptions<Subject>) {
    this.#options = options;
    this.#isAsync = options.isAsync ?? false;
  }

  /** Whether the subject is created asynchronously, so that every call returns a promise. */
  get isAsync(): boolean {
    return this.#isAsync;
  }

  /** Whether the slot may no longer be used. */
  get isEnded(): boolean {
    return this.#ended !== undefined;
  }

  get hasSubject(): boolean {
    return this.#current !== undefined;
  }

  /** Creates a subject if there is none. Returns whether it exists now, rather than later. */
  prepare(): boolean {
    this.requireOpen();
    const occupant = this.#current ?? this.#make();
    if (!(occupant instanceof Promise)) return true;
    // Ignore the rejection here; the next `use` reports it.
    occupant.catch(() => {});
    return false;
  }

  /** Throws if the slot may no longer be used. */
  readonly requireOpen = (): void => {
    if (this.#ended) throw this.#ended;
  };

  /** Runs a function with the subject. Returns a promise while the subject is being created. */
  use(run: (subject: Subject) => unknown): unknown {
    this.requireOpen();
    const occupant = this.#current ?? this.#make();
    return occupant instanceof Promise
      ? occupant.then((created) => this.#run(created, run))
      : this.#run(occupant, run);
  }

  /**
   * Calls a method of the subject; `shown` is returned in place of the subject itself. The same as `use`, without a
   * function for each call.
   */
  call(key: PropertyKey, args: readonly unknown[], shown: object): unknown {
    if (this.#ended) throw this.#ended;
    const entry = this.#current;
    if (!entry) return this.use((subject) => shownInstead(subject, callOn(subject, key, args), shown));
    entry.inFlight += 1;
    let result: unknown;
    try {
      result = callOn(entry.subject, key, args);
    } catch (error) {
      leave(entry);
      throw this.#ended ?? error;
    }
    if (typeof result === "object" && result instanceof Promise) return this.#pending(entry, result);
    leave(entry);
    if (this.#ended) throw this.#ended;
    return shownInstead(entry.subject, result, shown);
  }

  /** Replaces the subject at once. Resolves when the old one is idle and, if configured, released. */
  async replace(subject: Subject): Promise<void> {
    this.requireOpen();
    await this.#dismiss(entryOf(subject));
  }

  /** Empties the slot, so that the next use creates a new subject. Resolves as `replace` does. */
  async clear(): Promise<void> {
    await this.#dismiss(undefined);
  }

  /** Ends all use. Resolves as `replace` does. */
  async end(error: SleeveError): Promise<void> {
    this.#ended ??= error;
    await this.#dismiss(undefined);
  }

  async #dismiss(next: SlotEntry<Subject> | undefined): Promise<void> {
    const before = this.#current;
    this.#current = next;
    const making = this.#making;
    this.#making = undefined;
    const created = before ?? (await making?.catch(() => undefined));
    if (!created || created.subject === next?.subject) return;
    if (created.inFlight > 0) {
      await new Promise<void>((resolve) => {
        created.idle = resolve;
      });
    }
    await this.#options.release?.(created.subject);
  }

  /** One creation at a time. A failed one is forgotten, so that the next use tries again. */
  #make(): SlotEntry<Subject> | Promise<SlotEntry<Subject>> {
    if (this.#making) return this.#making;
    const subject = this.#options.make();
    if (!(subject instanceof Promise)) return this.#install(subject);
    this.#isAsync = true;
    const making: Promise<SlotEntry<Subject>> = subject.then(
      (created) => {
        if (this.#making !== making) return entryOf(created);
        this.#making = undefined;
        return this.#install(created);
      },
      (error: unknown) => {
        if (this.#making === making) this.#making = undefined;
        throw error;
      },
    );
    this.#making = making;
    return making;
  }

  #install(subject: Subject): SlotEntry<Subject> {
    this.#current = entryOf(subject);
    return this.#current;
  }

  #run(occupant: SlotEntry<Subject>, run: (subject: Subject) => unknown): unknown {
    this.requireOpen();
    occupant.inFlight += 1;
    let result: unknown;
    try {
      result = run(occupant.subject);
    } catch (error) {
      leave(occupant);
      throw this.#ended ?? error;
    }
    if (result instanceof Promise) return this.#pending(occupant, result);
    leave(occupant);
    this.requireOpen();
    return result;
  }

  #pending(entry: SlotEntry<Subject>, result: Promise<unknown>): Promise<unknown> {
    // A promise of another class may construct further ones when it is subscribed to.
    if (result.constructor === NativePromise) promiseThen(result, entry.leave, entry.leave);
    else onSettled(result, entry.leave);
    return this.#options.isRevocable ? this.#requireStillOpen(result) : result;
  }

  #requireStillOpen(result: Promise<unknown>): Promise<unknown> {
    return result.then(
      (value) => {
        this.requireOpen();
        return value;
      },
      (error: unknown) => {
        throw this.#ended ?? error;
      },
    );
  }
}

type Method = (...args: readonly unknown[]) => unknown;

/** Few arguments are passed without a spread, which is faster. */
function callOn(subject: object, key: PropertyKey, args: readonly unknown[]): unknown {
  const members = subject as Record<PropertyKey, Method>;
  switch (args.length) {
    case 0:
      return (members[key] as Method)();
    case 1:
      return (members[key] as Method)(args[0]);
    case 2:
      return (members[key] as Method)(args[0], args[1]);
    default:
      return (members[key] as Method)(...args);
  }
}

function shownInstead(subject: object, result: unknown, shown: object): unknown {
  return typeof result === "object" && result === subject ? shown : result;
}

function entryOf<Subject>(subject: Subject): SlotEntry<Subject> {
  const entry: SlotEntry<Subject> = { subject, inFlight: 0, idle: undefined, leave: () => leave(entry) };
  return entry;
}

function leave(occupant: SlotEntry<unknown>): void {
  occupant.inFlight -= 1;
  if (occupant.inFlight === 0) occupant.idle?.();
}
