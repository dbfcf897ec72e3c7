export class TugRoster {
    #free = ["Heron", "Plover", "Dunlin"];
    #sent = new Map();
    get free() {
        return [...this.#free];
    }
    sendTo(vessel, tons) {
        const needed = tons > 4000 ? 2 : tons > 500 ? 1 : 0;
        if (this.#free.length < needed)
            throw `${vessel} needs ${needed} tugs, and ${this.#free.length} are free`;
        const sent = this.#free.splice(0, needed);
        this.#sent.set(vessel, [...(this.#sent.get(vessel) ?? []), ...sent]);
        return sent;
    }
    recall(vessel) {
        this.#free.push(...(this.#sent.get(vessel) ?? []));
        this.#sent.delete(vessel);
    }
}
