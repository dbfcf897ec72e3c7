import { type FacadeOptions, facade, refuse, undoable } from "sleeve";
import { type Berths, NoBerth } from "./berths/berths.ts";
import type { NoticeChannel } from "./notices/notice-channel.ts";
import { type Metres, metres, type TideTable } from "./tides/tide-table.ts";
import { NoTugs, type Tugs } from "./tugs/tugs.ts";

/** A vessel that wants to enter. */
export interface Visit {
  readonly vessel: string;
  readonly draught: Metres;
  readonly length: Metres;
  readonly tons: number;
  readonly at: Date;
}

/** The subsystems of the office. None of them imports the office or another subsystem. */
export interface Parts {
  readonly tides: TideTable;
  readonly berths: Berths;
  readonly tugs: Tugs;
  readonly notices: NoticeChannel;
}

const BAR = 2.1;
const CLEARANCE = 0.5;

/** Creates the office, with its operations. */
export function openOffice(parts: Parts, options?: FacadeOptions) {
  return facade(
    parts,
    (operation) => ({
      admit: operation<Visit>()
        .steps({
          water: async ({ tides }, { input: { draught, at } }) => {
            const height = await tides.heightAt(at);
            const needed = metres(draught + CLEARANCE - BAR);
            return height < needed ? refuse("there is too little water over the bar" as const) : height;
          },
        })
        .steps({
          booking: undoable(
            ({ berths }, { input: { vessel, length } }) =>
              orRefuse(() => berths.book(vessel, length), NoBerth),
            ({ berths }, { reference }) => berths.cancel(reference),
          ),
        })
        .steps({
          tugs: undoable(
            ({ tugs }, { input: { vessel, tons } }) => orRefuse(() => tugs.send(vessel, tons), NoTugs),
            ({ tugs }, _, { input }) => tugs.recall(input.vessel),
          ),
        })
        .steps({
          notice: ({ notices }, { input: { vessel }, booking: { berth } }) =>
            notices.announce({ vessel, berth }),
        })
        .returns(({ booking: { berth }, tugs }) => ({ berth, tugs })),
      berths: ({ berths }) => berths.all(),
    }),
    options,
  );
}

export type Office = ReturnType<typeof openOffice>;

/** A missing resource is a refusal with its reason; everything else is a failure. */
function orRefuse<Result>(act: () => Result, lacking: new (message: string) => Error) {
  try {
    return act();
  } catch (error) {
    if (error instanceof lacking) return refuse(error.message);
    throw error;
  }
}
