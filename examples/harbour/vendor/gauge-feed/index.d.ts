import { EventEmitter } from "eventemitter3";
export interface FeedOptions {
    /** How long an answer takes, in milliseconds. */
    latency?: number;
    /** Every how many requests the gauge does not answer at all. 0, never. */
    silentEvery?: number;
}
export interface LevelReading {
    station: string;
    level_ft: number;
    /** Local time, "YYYY-MM-DD hh:mm". */
    taken: string;
}
export interface TurnReading extends LevelReading {
    kind: "HW" | "LW";
}
export declare class FeedError extends Error {
    readonly status: number;
    constructor(status: number, message: string);
}
export type LevelCallback = (error: FeedError | null, reading?: LevelReading) => void;
export type TurnsCallback = (error: FeedError | null, turns?: TurnReading[]) => void;
export interface FeedEvents {
    reading: [reading: LevelReading];
    shutdown: [];
}
/** A connection to a tide gauge. Local time is an hour ahead of UTC all year round. */
export declare class GaugeFeed extends EventEmitter<FeedEvents> {
    readonly stationName: string;
    constructor(station: string, options?: FeedOptions);
    get isOpen(): boolean;
    requestLevel(localTime: string, callback: LevelCallback): this;
    requestTurns(localDay: string, callback: TurnsCallback): this;
    shutdown(): void;
}
export declare const FEET_PER_METRE: number;
export default function formatLevel(reading: LevelReading): string;
