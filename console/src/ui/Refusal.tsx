import { Alert, Text } from "@mantine/core";
import type { ReactNode } from "react";
import { type Problem, Refused } from "../api";

/** Why something was not done, and what to do about it. */
export function Refusal({ of, children }: { of: unknown; children?: ReactNode }) {
  if (!of) return null;
  const problem: Pick<Problem, "title" | "detail" | "code"> =
    of instanceof Refused
      ? of.problem
      : {
          title: "The service cannot be reached.",
          detail: "Check the connection and try again.",
          code: "server.unreachable",
        };
  return (
    <Alert color="alarm" variant="light" title={problem.title} role="alert" data-code={problem.code}>
      <Text size="sm">{problem.detail}</Text>
      {children}
    </Alert>
  );
}
