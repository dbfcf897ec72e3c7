import { EventEmitter } from "eventemitter3";

interface Events {
  arrived: (vessel: string, berth: number) => void;
  fog: () => void;
}

class Office {
  readonly events = new EventEmitter<Events>();
  moor(vessel: string): void {
    this.events.emit("arrived", vessel, vessel.length);
  }
}

const office = new Office();
const listener = (vessel: string, berth: number) => console.log(vessel, berth);
office.events.on("arrived", listener).once("fog", () => console.log("fog"));
office.moor("Curlew");
console.log(office.events.emit("fog"), office.events.emit("fog"), office.events.listenerCount("arrived"));
office.events.off("arrived", listener);
office.moor("Heron");
console.log(office.events.eventNames().length);
class Quay extends EventEmitter<Events> {}
const quay = new Quay();
quay.on("fog", () => console.log("quay fog"));
quay.emit("fog");
