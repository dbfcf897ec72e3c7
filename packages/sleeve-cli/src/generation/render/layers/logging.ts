import type { LayerCode } from "./layer-code.ts";

/** Logs calls. */
export const loggingCode: LayerCode = {
  field: "log",
  fieldType: "CallLog",
  option: () => "CallLogOptions",
  isOptional: false,
  create: (option) => `new CallLog(${option})`,
  watch: ({ member, loggedList, fresh }) => {
    const entry = fresh("entry");
    return {
      begin: [`const ${entry} = this.#log.isOn() ? this.#log.called(${member}, ${loggedList}) : undefined;`],
      run: (call) => `${entry} === undefined ? ${call} : ${entry}.run(() => ${call})`,
      returned: (value) => [`${entry}?.ended({ status: "returned", value: ${value} });`],
      ended: (outcome) => `this.#log.ended(${member}, ${outcome}, ${entry});`,
      threw: (error) => [
        `this.#log.ended(${member}, { status: "threw", ${error === "error" ? error : `error: ${error}`} }, ${entry});`,
      ],
    };
  },
};
