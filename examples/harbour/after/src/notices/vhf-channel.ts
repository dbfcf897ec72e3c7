import * as vhfDesk from "@port-ellery/vhf-desk";
import { adapter, fromCallback } from "sleeve";
import { NotAnnounced, type NoticeChannel } from "./notice-channel.ts";

const CHANNEL = 12;

/** Announces by radio. */
export const vhfChannel = adapter<NoticeChannel, typeof vhfDesk>(
  {
    announce: async (desk, { vessel, berth }) => {
      const words = `${vessel} to berth ${berth}`.split(" ");
      await fromCallback<number>((spoken) => desk.speak(CHANNEL, words, spoken));
    },
  },
  { name: "vhfChannel", errors: (cause) => new NotAnnounced("Nothing was spoken.", { cause }) },
);

export function openVhf(): NoticeChannel {
  return vhfChannel(vhfDesk);
}
