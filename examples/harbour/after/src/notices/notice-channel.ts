/** Something that the office wants known: who goes where. */
export interface Notice {
  readonly vessel: string;
  readonly berth: number;
}

/** A way to give notice. */
export interface NoticeChannel {
  /** @throws {NotAnnounced} (rejects) when the channel fails */
  announce(notice: Notice): Promise<void>;
}

export class NotAnnounced extends Error {
  override readonly name = "NotAnnounced";
}
