import quayPost from "@port-ellery/quay-post";
import { adapter } from "sleeve";
import { NotAnnounced, type NoticeChannel } from "./notice-channel.ts";

/** Announces by a sheet on the quay. */
export const postChannel = adapter<NoticeChannel, typeof quayPost>(
  {
    announce: async (post, { vessel, berth }) => {
      await post.pinUp({ Heading: "Arrivals", Body: `${vessel} to berth ${berth}` });
    },
  },
  { name: "postChannel", errors: (cause) => new NotAnnounced("Nothing was pinned up.", { cause }) },
);

export function openPost(): NoticeChannel {
  return postChannel(quayPost);
}
