/** One berth as the ledger has it. The records are its own: changing one changes the ledger. */
export interface BerthRecord {
    no: number;
    length_ft: number;
    vessel: string | null;
    ref: string | null;
}
/** -1 not understood, -2 no berth is that long, -3 all that are long enough are taken, -4 no such booking, -9 not open. */
export type LedgerError = -1 | -2 | -3 | -4 | -9;
export declare class BerthLedger {
    records: BerthRecord[];
    /** How often a ledger has been opened since the program began. */
    static openings: number;
    /** Opens the ledger. 0, or an error number. */
    open(): number;
    /** Takes `<booking vessel="..." length_ft="..."/>`; gives `<booking ref="..." berth="..."/>`, or an error number. */
    submit(xml: string): string | LedgerError;
    /** Strikes a booking out. 0, or an error number. */
    strike(ref: string): 0 | LedgerError;
    /** All berths, as `<berths><berth no="1" length_ft="..." vessel="..."/></berths>`. */
    sheet(): string | LedgerError;
    shut(): void;
}
