/** What the office needs of the tugs. */
export interface Tugs {
  /**
   * Sends as many as a vessel of so many tons needs, and gives their names.
   *
   * @throws {NoTugs} where too few are free
   */
  send(vessel: string, tons: number): readonly string[];
  recall(vessel: string): void;
}

export class NoTugs extends Error {
  override readonly name = "NoTugs";
}
