import { EventEmitter } from "eventemitter3";
const MEAN = 3.12;
// [degrees an hour, metres, degrees]
const HARMONICS = [
    [28.9841042, 1.64, 141],
    [30, 0.57, 186],
    [28.4397295, 0.31, 117],
    [30.0821373, 0.16, 183],
    [15.0410686, 0.09, 352],
    [13.9430356, 0.07, 198],
    [57.9682084, 0.11, 74],
    [58.9841042, 0.06, 121],
];
const EPOCH = Date.UTC(2000, 0, 1);
const FIRST = Date.UTC(2020, 0, 1);
const LAST = Date.UTC(2036, 0, 1);
const AHEAD = 60 * 60000;
export const FEET_PER_METRE = 1 / 0.3048;
export class FeedError extends Error {
    name = "FeedError";
    status;
    constructor(status, message) {
        super(message);
        this.status = status;
    }
}
export class GaugeFeed extends EventEmitter {
    stationName;
    #options;
    #timers = new Set();
    #open = true;
    #requests = 0;
    constructor(station, options = {}) {
        super();
        if (station !== "PE-1")
            throw new FeedError(404, `no gauge ${station}`);
        this.stationName = "Port Ellery";
        this.#options = options;
    }
    get isOpen() {
        return this.#open;
    }
    requestLevel(localTime, callback) {
        return this.#answer(callback, () => {
            const time = parse(localTime);
            const reading = { station: "PE-1", level_ft: feetAt(time), taken: format(time) };
            this.emit("reading", reading);
            return reading;
        });
    }
    requestTurns(localDay, callback) {
        return this.#answer(callback, () => {
            const start = parse(`${localDay} 00:00`);
            const turns = [];
            for (let minute = 0; minute < 1440; minute++) {
                const time = start + minute * 60000;
                const before = metresAt(time - 60000);
                const here = metresAt(time);
                const after = metresAt(time + 60000);
                const kind = here > before && here >= after ? "HW" : here < before && here <= after ? "LW" : undefined;
                if (kind)
                    turns.push({ station: "PE-1", kind, level_ft: feetAt(time), taken: format(time) });
            }
            return turns;
        });
    }
    shutdown() {
        if (!this.#open)
            return;
        this.#open = false;
        for (const timer of this.#timers)
            clearTimeout(timer);
        this.emit("shutdown");
    }
    #answer(callback, compute) {
        if (!this.#open)
            throw new FeedError(410, "the feed is shut down");
        const { latency = 2, silentEvery = 0 } = this.#options;
        this.#requests += 1;
        if (silentEvery > 0 && this.#requests % silentEvery === 0)
            return this;
        const timer = setTimeout(() => {
            this.#timers.delete(timer);
            let result;
            try {
                result = compute();
            }
            catch (error) {
                callback(error);
                return;
            }
            callback(null, result);
        }, latency);
        this.#timers.add(timer);
        return this;
    }
}
function metresAt(time) {
    if (!(time >= FIRST && time < LAST))
        throw new FeedError(416, "time out of range");
    const hours = (time - EPOCH) / 3600000;
    return HARMONICS.reduce((sum, [speed, amplitude, phase]) => sum + amplitude * Math.cos((speed * hours - phase) * (Math.PI / 180)), MEAN);
}
// The float bobs by a hundredth of a foot.
function feetAt(time) {
    const bob = Math.sin(time / 60000) * 0.01;
    return Math.round((metresAt(time) * FEET_PER_METRE + bob) * 100) / 100;
}
function parse(local) {
    const match = /^(\d{4})-(\d\d)-(\d\d) (\d\d):(\d\d)$/.exec(local);
    if (!match)
        throw new FeedError(400, `not a local time: ${local}`);
    const [, year, month, day, hour, minute] = match.map(Number);
    return Date.UTC(year, month - 1, day, hour, minute) - AHEAD;
}
function format(time) {
    return new Date(time + AHEAD).toISOString().slice(0, 16).replace("T", " ");
}
export default function formatLevel(reading) {
    return `${reading.level_ft.toFixed(1)} ft at ${reading.taken}`;
}
