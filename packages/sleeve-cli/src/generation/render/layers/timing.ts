import { type CompiledLayer, optionOf } from "./compiled-layer.ts";

/** Measures calls. */
export const timingCode: CompiledLayer = {
  field: "timer",
  fieldType: "CallTimer",
  option: optionOf("CallTimerOptions"),
  isOptional: false,
  create: (option) => `new CallTimer(${option})`,
  parts: ["CallTimer"],
  imports: [],
  watch: ({ member, fresh }) => {
    const start = fresh("start");
    const end = (status: string) => [`this.#timer.ended(${member}, ${status}, ${start});`];
    return {
      begin: [`const ${start} = this.#timer.start();`],
      returned: () => end('"returned"'),
      ended: (outcome) => end(`${outcome}.status`),
      threw: () => end('"threw"'),
    };
  },
};
