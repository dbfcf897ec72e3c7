import { current, type Draft, enablePatches, freeze, type Immutable, isDraft, type Patch, produce, produceWithPatches } from "immer";

enablePatches();

interface Ledger {
  readonly berths: readonly { readonly number: number; readonly vessel?: string }[];
}

const empty: Immutable<Ledger> = freeze({ berths: [{ number: 1 }, { number: 2 }] }, true);

function moor(draft: Draft<Ledger>, number: number, vessel: string): void {
  const berth = draft.berths.find((each) => each.number === number);
  if (berth) berth.vessel = vessel;
}

const next = produce(empty, (draft) => {
  moor(draft, 2, "Curlew");
  console.log(isDraft(draft), current(draft).berths.length);
});
console.log(next.berths[1]?.vessel, next.berths[0] === empty.berths[0]);
const leave = produce((draft: Draft<Ledger>, number: number) => {
  for (const berth of draft.berths) if (berth.number === number) delete berth.vessel;
});
console.log(leave(next, 2).berths[1]?.vessel);
const [, patches] = produceWithPatches(empty, (draft) => {
  draft.berths.push({ number: 3 });
});
console.log(patches.map(({ op, path }: Patch) => `${op} ${path.join("/")}`).join());
