import { type Metres, metres, type Tide, TidesUnavailable, type TideTable } from "./tide-table.ts";

const DAY = 86_400_000;

/**
 * An implementation for tests that keeps its tides in memory. Between two turns the height follows half a cosine, as the
 * rule of twelfths in pilot books.
 */
export class FixedTides implements TideTable {
  readonly port: string;
  readonly #tides: readonly Tide[];

  /** @param tides in order of time, alternately high and low */
  constructor(port: string, tides: readonly Tide[]) {
    this.port = port;
    this.#tides = tides;
  }

  async heightAt(time: Date): Promise<Metres> {
    const next = this.#tides.findIndex(({ at }) => at >= time);
    const [from, to] = [this.#tides[next - 1], this.#tides[next]];
    if (!from || !to) throw new TidesUnavailable("These tides do not cover that time.");
    const share = (time.getTime() - from.at.getTime()) / (to.at.getTime() - from.at.getTime());
    const middle = (from.height + to.height) / 2;
    return metres(middle + ((from.height - to.height) / 2) * Math.cos(Math.PI * share));
  }

  async tidesOn(day: Date): Promise<readonly Tide[]> {
    const start = Math.floor(day.getTime() / DAY) * DAY;
    return this.#tides.filter(({ at }) => at.getTime() >= start && at.getTime() < start + DAY);
  }

  close(): void {}
}
