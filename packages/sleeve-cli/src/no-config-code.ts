/** The environment variable that refuses to run configs with code, if it is set. */
export const NO_CONFIG_CODE = "SLEEVE_NO_CONFIG_CODE";

/** Whether nothing of the project may be run. */
export function refusesConfigCode(): boolean {
  return Boolean(process.env[NO_CONFIG_CODE]);
}
