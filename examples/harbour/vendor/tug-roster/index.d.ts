/** The tugs of the harbour. One roster is one day's. */
export declare class TugRoster {
    /** Sends tugs to a vessel of so many tons. Throws a string where too few are free. */
    sendTo(vessel: string, tons: number): string[];
    recall(vessel: string): void;
    get free(): string[];
}
