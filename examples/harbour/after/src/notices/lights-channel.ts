import { MastLights as Lights, type MastLights } from "@port-ellery/mast-lights";
import { adapter } from "sleeve";
import { NotAnnounced, type NoticeChannel } from "./notice-channel.ts";

/** Announces by lights on the mast: one green light for each berth number, at most three. */
export const lightsChannel = adapter<NoticeChannel, MastLights>(
  {
    announce: async (mast, { berth }) => {
      if (!mast.hoist("G".repeat(Math.min(3, berth)))) throw new NotAnnounced("The mast has no such lights.");
    },
  },
  { name: "lightsChannel" },
);

export function openLights(): NoticeChannel {
  return lightsChannel(new Lights());
}
