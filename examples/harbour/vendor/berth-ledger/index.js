import { XMLBuilder, XMLParser } from "fast-xml-parser";
const FORM = { ignoreAttributes: false, attributeNamePrefix: "", suppressEmptyNode: true };
const parser = new XMLParser(FORM);
const builder = new XMLBuilder(FORM);
const LENGTHS = [82, 131, 197, 262, 361];
export class BerthLedger {
    static openings = 0;
    records = LENGTHS.map((length_ft, index) => ({ no: index + 1, length_ft, vessel: null, ref: null }));
    #isOpen = false;
    #bookings = 0;
    open() {
        BerthLedger.openings += 1;
        this.#isOpen = true;
        return 0;
    }
    submit(xml) {
        if (!this.#isOpen)
            return -9;
        const form = parser.parse(xml).booking;
        const length = Number(form?.length_ft);
        if (!form?.vessel || !(length > 0))
            return -1;
        const fitting = this.records.filter(({ length_ft }) => length_ft >= length);
        if (fitting.length === 0)
            return -2;
        const free = fitting.find(({ vessel }) => vessel === null);
        if (!free)
            return -3;
        this.#bookings += 1;
        free.vessel = String(form.vessel);
        free.ref = `B-${this.#bookings}`;
        return builder.build({ booking: { ref: free.ref, berth: String(free.no) } });
    }
    strike(ref) {
        if (!this.#isOpen)
            return -9;
        const record = this.records.find((record) => record.ref === ref);
        if (!record)
            return -4;
        record.vessel = null;
        record.ref = null;
        return 0;
    }
    sheet() {
        if (!this.#isOpen)
            return -9;
        const berth = this.records.map(({ no, length_ft, vessel }) => ({
            no: String(no),
            length_ft: String(length_ft),
            ...(vessel && { vessel }),
        }));
        return builder.build({ berths: { berth } });
    }
    shut() {
        this.#isOpen = false;
    }
}
