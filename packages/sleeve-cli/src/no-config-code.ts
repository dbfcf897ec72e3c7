/** The environment variable that refuses to run configs with code, if it is set. */
export const NO_CONFIG_CODE = "SLEEVE_NO_CONFIG_CODE";
