/** A notice: a vessel and its berth. */
export interface Notice {
  readonly vessel: string;
  readonly berth: number;
}

/** A channel for notices. */
export interface NoticeChannel {
  /** @throws {NotAnnounced} (rejects) when the channel fails */
  announce(notice: Notice): Promise<void>;
}

export class NotAnnounced extends Error {
  override readonly name = "NotAnnounced";
}
