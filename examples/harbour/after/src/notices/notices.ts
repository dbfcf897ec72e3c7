import { type Bridge, bridge } from "sleeve";
import { openLights } from "./lights-channel.ts";
import type { NoticeChannel } from "./notice-channel.ts";
import { openPost } from "./post-channel.ts";
import { openVhf } from "./vhf-channel.ts";

export type ChannelName = "vhf" | "lights" | "post";

/** A channel, or a function that opens it at first use. */
type Channels = Readonly<Record<ChannelName, NoticeChannel | (() => NoticeChannel)>>;

/** The channels of the office behind one port. */
export function openNotices(
  start: ChannelName,
  channels: Channels = { vhf: openVhf, lights: openLights, post: openPost },
): Bridge<NoticeChannel, ChannelName> {
  return bridge<NoticeChannel, ChannelName>(channels, { start, surface: { announce: "method" } });
}

/** Announcements of the office, built from the members of the active channel. */
export interface Notices extends NoticeChannel {
  /** Announces that a vessel moves from one berth to another. */
  shiftBerth(vessel: string, from: number, to: number): Promise<void>;
}

export function refined(channel: Bridge<NoticeChannel, ChannelName>): Notices {
  return channel.refine((port) => ({
    async shiftBerth(vessel: string, from: number, to: number): Promise<void> {
      await port.announce({ vessel: `${vessel}, from berth ${from},`, berth: to });
    },
  }));
}
