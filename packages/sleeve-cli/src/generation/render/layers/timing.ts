import type { LayerCode } from "./layer-code.ts";

/** Measures calls. */
export const timingCode: LayerCode = {
  field: "timer",
  fieldType: "CallTimer",
  option: () => "CallTimerOptions",
  isOptional: false,
  create: (option) => `new CallTimer(${option})`,
  watch: ({ member, fresh }) => {
    const start = fresh("start");
    const end = (status: string) => `this.#timer.ended(${member}, ${status}, ${start});`;
    return {
      begin: [`const ${start} = this.#timer.start();`],
      returned: () => [end('"returned"')],
      ended: (outcome) => end(`${outcome}.status`),
      threw: () => [end('"threw"')],
    };
  },
};
