import { type CompiledLayer, optionOf } from "./compiled-layer.ts";

/** Logs calls, with the call numbers of the library unless the file stands alone. */
export function loggingCode(isStandalone: boolean): CompiledLayer {
  return {
    field: "log",
    fieldType: "CallLog",
    option: optionOf("CallLogOptions"),
    isOptional: false,
    create: (option) => `new CallLog(${option})`,
    parts: isStandalone ? ["CallLog"] : [],
    imports: isStandalone ? [] : ["CallLog", "type CallLogOptions"],
    watch: ({ member, loggedList, fresh }) => {
      const entry = fresh("entry");
      return {
        begin: [
          `const ${entry} = this.#log.isOn() ? this.#log.called(${member}, ${loggedList}) : undefined;`,
        ],
        run: (call) => `${entry} === undefined\n  ? ${call}\n  : ${entry}.run(() => ${call})`,
        returned: (value) => [`${entry}?.ended({ status: "returned", value: ${value} });`],
        ended: (outcome) => [`this.#log.ended(${member}, ${outcome}, ${entry});`],
        threw: (error) => [
          `this.#log.ended(${member}, { status: "threw", ${error === "error" ? error : `error: ${error}`} }, ${entry});`,
        ],
      };
    },
  };
}
