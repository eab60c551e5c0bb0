/** Whether people are read out of a system of a type, and not only carried out to it. */
export const isRead = (type: string) => type !== "postgres" && type !== "webhook";

/** How an account there stands, and what it is in. */
export const heldText = (state: string, groups: readonly string[]) =>
  groups.length > 0 ? `${state}, in ${groups.join(", ")}` : state;
