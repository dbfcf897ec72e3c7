import { action, autorun, computed, type IReactionDisposer, makeObservable, observable, reaction, runInAction } from "mobx";

class Quay {
  vessels: string[] = [];
  constructor() {
    makeObservable(this, { vessels: observable, moor: action, count: computed });
  }
  get count(): number {
    return this.vessels.length;
  }
  moor(vessel: string): void {
    this.vessels.push(vessel);
  }
}

const quay = new Quay();
const stop: IReactionDisposer = autorun(() => console.log("count", quay.count));
quay.moor("Curlew");
runInAction(() => {
  quay.vessels.push("Heron", "Gannet");
});
stop();
const fog = observable.box(false);
reaction(() => fog.get(), (value) => console.log("fog", value), { fireImmediately: true });
runInAction(() => fog.set(true));
const tides = observable.map<string, number>([["quay", 3]]);
const high = computed(() => [...tides.values()].filter((value) => value > 2).length);
console.log(high.get(), tides.size);
