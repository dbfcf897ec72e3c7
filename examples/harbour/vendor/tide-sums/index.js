const EPOCH = Date.UTC(2000, 0, 1);
const FIRST = (Date.UTC(2020, 0, 1) - EPOCH) / 60000;
const LAST = (Date.UTC(2036, 0, 1) - EPOCH) / 60000;
const STATIONS = {
    "PE-1": {
        name: "Port Ellery",
        mean: 312,
        constituents: [
            { name: "M2", speed: 28.9841042, amplitude: 164, phase: 141 },
            { name: "S2", speed: 30, amplitude: 57, phase: 186 },
            { name: "N2", speed: 28.4397295, amplitude: 31, phase: 117 },
            { name: "K2", speed: 30.0821373, amplitude: 16, phase: 183 },
            { name: "K1", speed: 15.0410686, amplitude: 9, phase: 352 },
            { name: "O1", speed: 13.9430356, amplitude: 7, phase: 198 },
            { name: "M4", speed: 57.9682084, amplitude: 11, phase: 74 },
            { name: "MS4", speed: 58.9841042, amplitude: 6, phase: 121 },
        ],
    },
};
function loadStation(code) {
    const station = STATIONS[code];
    if (!station)
        throw new RangeError(`no station ${code}`);
    return { ...station, constituents: station.constituents.map((constituent) => ({ ...constituent })) };
}
function toMinute(time) {
    return Math.round((time.getTime() - EPOCH) / 60000);
}
function sumAt(station, minute) {
    if (!(minute >= FIRST && minute < LAST))
        throw new RangeError(`minute ${minute} is out of range`);
    let level = station.mean;
    for (const { speed, amplitude, phase } of station.constituents) {
        level += amplitude * Math.cos(((speed * minute) / 60 - phase) * (Math.PI / 180));
    }
    return level;
}
function turnsBetween(station, from, to) {
    const turns = [];
    for (let minute = from; minute < to; minute++) {
        const before = sumAt(station, minute - 1);
        const level = sumAt(station, minute);
        const after = sumAt(station, minute + 1);
        if (level > before && level >= after)
            turns.push({ minute, level, high: true });
        if (level < before && level <= after)
            turns.push({ minute, level, high: false });
    }
    return turns;
}
export { loadStation, toMinute, turnsBetween };
export default sumAt;
