import type { ReactNode } from "react";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** What somebody may do who holds a duty here; nobody else is offered it. */
export function Allowed({ duty, children }: { duty: string; children: ReactNode }) {
  const { may } = useWorkspace();
  return may(duty) ? children : null;
}
