export class TooFewTugs extends Error {
    constructor(vessel, needed, free) {
        super(`${vessel} needs ${needed} tugs, and ${free} are free`);
        this.free = free;
    }
}
export class TugRoster {
    #free = ["Heron", "Plover", "Dunlin"];
    #sent = new Map();
    get free() {
        return [...this.#free];
    }
    async assignTugs(vessel, tons) {
        const needed = tons > 4000 ? 2 : tons > 500 ? 1 : 0;
        if (this.#free.length < needed)
            throw new TooFewTugs(vessel, needed, this.#free.length);
        const sent = this.#free.splice(0, needed);
        this.#sent.set(vessel, [...(this.#sent.get(vessel) ?? []), ...sent]);
        return sent;
    }
    recall(vessel) {
        this.#free.push(...(this.#sent.get(vessel) ?? []));
        this.#sent.delete(vessel);
    }
}
