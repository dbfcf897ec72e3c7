import { contract } from "sleeve/conform";

/** The berths of Port Ellery, as the subject of conforming and wrong wrappers. */
export interface Ledger {
  readonly size: number;
  mark: string;
  book(vessel: string, berth: number): this;
  berthOf(vessel: string): number | undefined;
  depthAt(berth: number, tide: number): Promise<number>;
  free(berth: number): void;
  remarks(berth: number): string[];
  vessels(): Iterable<string>;
  each(send: (vessel: string, berth: number) => void): void;
  settle(vessel: string): Promise<{ readonly vessel: string; readonly due: number }>;
}

export class BerthLedger implements Ledger {
  readonly #berths = new Map<number, string>();
  #mark = "PE";

  get size(): number {
    return this.#berths.size;
  }

  get mark(): string {
    return this.#mark;
  }

  set mark(mark: string) {
    this.#mark = String(mark);
  }

  book(vessel: string, berth: number): this {
    this.#berths.set(berth, vessel);
    return this;
  }

  berthOf(vessel: string): number | undefined {
    return [...this.#berths].find(([, each]) => each === vessel)?.[0];
  }

  async depthAt(berth: number, tide: number): Promise<number> {
    if (typeof berth !== "number") throw new RangeError("there is no such berth");
    return 4 + (berth % 3) - Number(tide);
  }

  free(berth: number): void {
    if (!this.#berths.delete(berth)) throw new RangeError(`berth ${berth} is free already`);
  }

  remarks(berth: number): string[] {
    return [this.#mark, String(this.#berths.get(berth))];
  }

  *vessels(): Iterable<string> {
    yield* this.#berths.values();
  }

  each(send: (vessel: string, berth: number) => void): void {
    for (const [berth, vessel] of this.#berths) send(vessel, berth);
  }

  async settle(vessel: string): Promise<{ readonly vessel: string; readonly due: number }> {
    if (typeof vessel !== "string") throw new TypeError("a vessel has a name");
    return { vessel, due: vessel.length * 10 };
  }
}

/** A hand-written decorator that forwards everything; the wrong ones extend it. */
export class PassingLedger implements Ledger {
  protected readonly inner: Ledger;

  constructor(inner: Ledger) {
    this.inner = inner;
  }

  get size(): number {
    return this.inner.size;
  }

  get mark(): string {
    return this.inner.mark;
  }

  set mark(mark: string) {
    this.inner.mark = mark;
  }

  book(vessel: string, berth: number): this {
    this.inner.book(vessel, berth);
    return this;
  }

  berthOf(vessel: string): number | undefined {
    return this.inner.berthOf(vessel);
  }

  depthAt(berth: number, tide: number): Promise<number> {
    return this.inner.depthAt(berth, tide);
  }

  free(berth: number): void {
    this.inner.free(berth);
  }

  remarks(berth: number): string[] {
    return this.inner.remarks(berth);
  }

  vessels(): Iterable<string> {
    return this.inner.vessels();
  }

  each(send: (vessel: string, berth: number) => void): void {
    this.inner.each(send);
  }

  settle(vessel: string): Promise<{ readonly vessel: string; readonly due: number }> {
    return this.inner.settle(vessel);
  }
}

/** Only a name: the members come from the subject, and the laws from the kind of wrapper. */
export const ledgerContract = contract<Ledger>("Ledger");
