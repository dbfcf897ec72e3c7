/** One harmonic constituent of a station's tide. */
export interface Constituent {
    name: string;
    /** Degrees an hour. */
    speed: number;
    /** Centimetres. */
    amplitude: number;
    /** Degrees at minute 0. */
    phase: number;
}
export interface Station {
    name: string;
    /** Mean level above chart datum, in centimetres. */
    mean: number;
    constituents: Constituent[];
}
export interface Turn {
    /** Minutes since 2000-01-01T00:00Z. */
    minute: number;
    /** Centimetres above chart datum. */
    level: number;
    high: boolean;
}
export declare function loadStation(code: string): Station;
/** Turns of the tide from one minute up to another. Looks at every minute between. */
export declare function turnsBetween(station: Station, from: number, to: number): Turn[];
/** Minutes since 2000-01-01T00:00Z. */
export declare function toMinute(time: Date): number;
/** The level in centimetres above chart datum. Throws RangeError before 2020 and after 2035. */
export default function sumAt(station: Station, minute: number): number;
