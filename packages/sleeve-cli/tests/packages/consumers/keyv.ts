import Keyv from "keyv";

interface Position {
  readonly berth: number;
}

class Ledger {
  readonly #store: Keyv<Position>;

  constructor(store: Keyv<Position>) {
    this.#store = store;
  }

  async moor(vessel: string, berth: number): Promise<void> {
    await this.#store.set(vessel, { berth }, 60_000);
  }

  async where(vessel: string): Promise<number | undefined> {
    return (await this.#store.get(vessel))?.berth;
  }

  leave(vessel: string): Promise<boolean> {
    return this.#store.delete(vessel);
  }
}

const store = new Keyv<Position>({ namespace: "berths", ttl: 5000 });
store.on("error", (error: Error) => console.log(error.message));
const ledger = new Ledger(store);
await ledger.moor("Curlew", 4);
console.log(await ledger.where("Curlew"), await ledger.where("Heron"));
console.log(await ledger.leave("Curlew"), await store.has("Curlew"), store.namespace);
await store.clear();
