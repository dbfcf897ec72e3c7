import { BerthLedger } from "@port-ellery/berth-ledger";
import { type Progress, Refusal } from "sleeve";
import { type Office, openOffice, type Visit } from "../../after/src/admit.ts";
import type { Berths } from "../../after/src/berths/berths.ts";
import { openBerths } from "../../after/src/berths/ledger-berths.ts";
import { guardedBerths, master, visitor } from "../../after/src/guarded-berths.ts";
import { type ChannelName, openNotices } from "../../after/src/notices/notices.ts";
import { metres, type TideTable } from "../../after/src/tides/tide-table.ts";
import { tugsOfToday } from "../../after/src/tugs/roster-tugs.ts";
import { element } from "./element.ts";

const STEPS_KEPT = 12;

/** Admits vessels through the form of the page, with the selected tide table. */
export function offerAdmission(tides: () => TideTable): void {
  const form = element("visit", HTMLFormElement);
  const steps = element("steps", HTMLTableSectionElement);
  const answer = element("answer", HTMLElement);
  const notices = openNotices("vhf");
  const tugs = tugsOfToday();
  let ledger: Berths | undefined;
  const open = () => {
    ledger ??= openBerths();
    return ledger;
  };
  const desks = { master: guardedBerths(master, open), visitor: guardedBerths(visitor, open) };

  form.addEventListener("submit", (event) => {
    event.preventDefault();
    void admit(new FormData(form));
  });

  async function admit(fields: FormData): Promise<void> {
    const visit: Visit = {
      vessel: String(fields.get("vessel")),
      draught: metres(Number(fields.get("draught"))),
      length: metres(Number(fields.get("length"))),
      tons: Number(fields.get("tons")),
      at: new Date(),
    };
    await notices.use(fields.get("channel") as ChannelName);
    const berths = desks[fields.get("session") as keyof typeof desks];
    for (const row of steps.rows) row.className = "";
    const progress = (progress: Progress) => showStep(visit.vessel, progress);
    const office = openOffice({ tides: tides(), berths, tugs, notices: notices.port }, { progress });
    answer.textContent = await answerTo(office, visit);
    showBerths(desks.visitor);
    const times = BerthLedger.openings === 1 ? "once" : `${BerthLedger.openings} times`;
    element("ledger", HTMLElement).textContent = `The ledger has been opened ${times}.`;
  }

  async function answerTo(office: Office, visit: Visit): Promise<string> {
    try {
      const given = await office.admit(visit);
      if (given instanceof Refusal) return `${visit.vessel} is refused: ${given.reason.replace(/\.$/, "")}.`;
      const sent = given.tugs.length > 0 ? `with ${given.tugs.join(" and ")}` : "without tugs";
      return `${visit.vessel} comes to berth ${given.berth} ${sent}, announced by ${notices.current}.`;
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  }

  function showStep(vessel: string, { step, status, milliseconds }: Progress): void {
    if (status === "started") return;
    const row = document.createElement("tr");
    row.className = "latest";
    for (const text of [vessel, step, status, milliseconds.toFixed(1)]) row.insertCell().textContent = text;
    if (status === "failed" || status === "refused" || status === "not undone")
      row.cells[2]?.classList.add("failed");
    row.cells[3]?.classList.add("number");
    steps.append(row);
    while (steps.rows.length > STEPS_KEPT) steps.rows[0]?.remove();
  }
}

function showBerths(berths: Berths): void {
  const rows = berths.all().map(({ number, length, vessel }) => {
    const row = document.createElement("tr");
    for (const text of [String(number), length.toFixed(0), vessel ?? "free"])
      row.insertCell().textContent = text;
    row.cells[1]?.classList.add("number");
    return row;
  });
  element("berths", HTMLTableSectionElement).replaceChildren(...rows);
}
