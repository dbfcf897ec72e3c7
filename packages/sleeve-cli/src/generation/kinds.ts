/** What can be generated. */
export const WRAP_KINDS = ["forwarder", "decorator", "proxy", "adapter", "fake", "surface"] as const;
