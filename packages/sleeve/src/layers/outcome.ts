/** How a call ended: at once (`returned`, `threw`) or when its promise settled (`resolved`, `rejected`). */
export type Outcome =
  | { readonly status: "returned" | "resolved"; readonly value: unknown }
  | { readonly status: "threw" | "rejected"; readonly error: unknown };

/** Whether a call gave its caller what it was asked for. */
export function succeeded(outcome: Outcome): outcome is Extract<Outcome, { value: unknown }> {
  return outcome.status === "returned" || outcome.status === "resolved";
}
