/** What can be generated. */
export const WRAP_KINDS = [
  "forwarder",
  "decorator",
  "proxy",
  "adapter",
  "bridge",
  "contract",
  "fake",
  "surface",
] as const;
