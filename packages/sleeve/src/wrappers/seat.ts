import type { SleeveError } from "../errors.ts";
import { whenOver } from "../layers/outcome.ts";

/** How a seat comes by its occupant, and lets go of it. */
export interface SeatOptions<Subject extends object> {
  /** Makes an occupant when the seat is used while it is empty. */
  readonly make: () => Subject | Promise<Subject>;
  /** Lets go of an occupant that is gone and idle. */
  readonly release?: ((subject: Subject) => unknown) | undefined;
  /** Whether nothing that was called before a revocation may come out after it. */
  readonly isRevocable?: boolean;
}

/** A subject in use, with the number of calls that are under way in it. */
interface Occupant<Subject> {
  readonly subject: Subject;
  underWay: number;
  idle: (() => void) | undefined;
}

/**
 * Where the subject of a wrapper is found at each use, so that it can be made late, changed, and taken away. Calls that are
 * under way stay with the subject they began in. They are over when they return, or their promise settles; an iterator that
 * is still being read is not waited for, as nobody may ever read it to its end.
 */
export class Seat<Subject extends object> {
  readonly #options: SeatOptions<Subject>;
  #occupant: Occupant<Subject> | undefined;
  #making: Promise<Occupant<Subject>> | undefined;
  #ended: SleeveError | undefined;

  constructor(options: SeatOptions<Subject>) {
    this.#options = options;
  }

  get isOccupied(): boolean {
    return this.#occupant !== undefined;
  }

  /** Makes an occupant if there is none; answers whether there is one now, and not only later. */
  prepare(): boolean {
    this.requireOpen();
    const occupant = this.#occupant ?? this.#make();
    if (!(occupant instanceof Promise)) return true;
    // Whoever uses the seat is told of a failure; to prepare it is not to use it.
    occupant.catch(() => {});
    return false;
  }

  /** Throws where the seat may not be used any more. */
  readonly requireOpen = (): void => {
    if (this.#ended) throw this.#ended;
  };

  /** Runs something with the subject; gives back a promise where the subject is still being made. */
  use(run: (subject: Subject) => unknown): unknown {
    this.requireOpen();
    const occupant = this.#occupant ?? this.#make();
    return occupant instanceof Promise
      ? occupant.then((made) => this.#run(made, run))
      : this.#run(occupant, run);
  }

  /** Seats another subject at once. Resolves when the one before is idle, and released if it was to be. */
  async occupy(subject: Subject): Promise<void> {
    this.requireOpen();
    await this.#dismiss({ subject, underWay: 0, idle: undefined });
  }

  /** Empties the seat, so that the next use makes a subject anew. Resolves as `occupy` does. */
  async vacate(): Promise<void> {
    await this.#dismiss(undefined);
  }

  /** Ends all use. Resolves as `occupy` does. */
  async end(error: SleeveError): Promise<void> {
    this.#ended ??= error;
    await this.#dismiss(undefined);
  }

  async #dismiss(next: Occupant<Subject> | undefined): Promise<void> {
    const before = this.#occupant;
    this.#occupant = next;
    const making = this.#making;
    this.#making = undefined;
    const made = before ?? (await making?.catch(() => undefined));
    if (!made || made.subject === next?.subject) return;
    if (made.underWay > 0) {
      await new Promise<void>((resolve) => {
        made.idle = resolve;
      });
    }
    await this.#options.release?.(made.subject);
  }

  /** One making at a time. One that fails is forgotten, so that the next use tries again. */
  #make(): Occupant<Subject> | Promise<Occupant<Subject>> {
    if (this.#making) return this.#making;
    const subject = this.#options.make();
    if (!(subject instanceof Promise)) return this.#seat(subject);
    const making: Promise<Occupant<Subject>> = subject.then(
      (made) => {
        if (this.#making !== making) return occupantOf(made);
        this.#making = undefined;
        return this.#seat(made);
      },
      (error: unknown) => {
        if (this.#making === making) this.#making = undefined;
        throw error;
      },
    );
    this.#making = making;
    return making;
  }

  #seat(subject: Subject): Occupant<Subject> {
    this.#occupant = occupantOf(subject);
    return this.#occupant;
  }

  #run(occupant: Occupant<Subject>, run: (subject: Subject) => unknown): unknown {
    this.requireOpen();
    occupant.underWay += 1;
    let result: unknown;
    try {
      result = run(occupant.subject);
    } catch (error) {
      leave(occupant);
      throw this.#ended ?? error;
    }
    if (!(result instanceof Promise)) {
      leave(occupant);
      this.requireOpen();
      return result;
    }
    whenOver(result, () => leave(occupant));
    return this.#options.isRevocable ? this.#stillOpen(result) : result;
  }

  #stillOpen(result: Promise<unknown>): Promise<unknown> {
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

function occupantOf<Subject>(subject: Subject): Occupant<Subject> {
  return { subject, underWay: 0, idle: undefined };
}

function leave(occupant: Occupant<unknown>): void {
  occupant.underWay -= 1;
  if (occupant.underWay === 0) occupant.idle?.();
}
