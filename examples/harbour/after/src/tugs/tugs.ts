/** The tugs, as the office needs them. */
export interface Tugs {
  /**
   * Sends the tugs that a vessel needs for its tons, and returns their names.
   *
   * @throws {NoTugs} if too few are free
   */
  send(vessel: string, tons: number): readonly string[];
  recall(vessel: string): void;
}

export class NoTugs extends Error {
  override readonly name = "NoTugs";
}
