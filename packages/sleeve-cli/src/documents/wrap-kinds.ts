/** What can be generated. */
export const WRAP_KINDS = [
  "forwarder",
  "decorator",
  "proxy",
  "adapter",
  "facade",
  "bridge",
  "contract",
  "fake",
  "surface",
] as const;
