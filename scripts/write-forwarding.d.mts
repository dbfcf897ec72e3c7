/** The text of packages/sleeve/src/forward/forwarding.generated.ts. */
export function forwardingSource(): string;
