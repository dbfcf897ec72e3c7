// Generated from src/notices/notice-channel.ts#NoticeChannel by: npx sleeve wrap src/notices/notice-channel.ts#NoticeChannel --as fake --to src/generated/fake-notice-channel.ts --write
// Content 8453022282d8. Run the command again instead of editing this file.

import type { Notice, NoticeChannel } from "../notices/notice-channel.ts";

/** A `NoticeChannel` for tests. It has the members that `answers` has; using another one throws. */
export class FakeNoticeChannel implements NoticeChannel {
  /** The members, as functions and values. They can be replaced at any time. */
  readonly answers: Partial<NoticeChannel>;

  constructor(answers: Partial<NoticeChannel> = {}) {
    this.answers = answers;
  }

  #answer<Key extends keyof NoticeChannel>(key: Key): Required<NoticeChannel>[Key] {
    if (!(key in this.answers)) {
      throw new Error(`FakeNoticeChannel: ${String(key)} is not given. Set it in answers.`);
    }
    return this.answers[key] as Required<NoticeChannel>[Key];
  }

  announce(notice: Notice): Promise<void> {
    return this.#answer("announce")(notice);
  }
}
