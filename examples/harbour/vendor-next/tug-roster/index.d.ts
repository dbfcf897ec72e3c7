/** Tugs that a vessel needs and cannot have. */
export declare class TooFewTugs extends Error {
    readonly free: number;
}
/** The tugs of the harbour. One roster is one day's. */
export declare class TugRoster {
    /** Assigns tugs to a vessel of so many tons. Rejects with TooFewTugs. */
    assignTugs(vessel: string, tons: number): Promise<string[]>;
    /** @deprecated Tugs come back by themselves once their vessel is in its berth. */
    recall(vessel: string): void;
    get free(): readonly string[];
}
