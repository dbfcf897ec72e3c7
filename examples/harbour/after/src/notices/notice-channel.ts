/** Something that the office wants known: who goes where. */
export interface Notice {
  readonly vessel: string;
  readonly berth: number;
}

/** A way to give notice. */
export interface NoticeChannel {
  /** @throws {NotTold} rejects with it where nobody was told */
  tell(notice: Notice): Promise<void>;
}

export class NotTold extends Error {
  override readonly name = "NotTold";
}
