import { Alert, Anchor, Text } from "@mantine/core";
import { type ReactNode, useEffect, useRef } from "react";
import { type Problem, Refused } from "../api";
import { FreshProof } from "./FreshProof";

/** Why something was not done, and what to do about it. */
export function Refusal(props: {
  of: unknown;
  /** Whether it is said before anybody asked for it to be done: then the page stays where somebody fills it in. */
  isForetold?: boolean;
  children?: ReactNode;
}) {
  const { of, children } = props;
  const box = useRef<HTMLDivElement>(null);
  const answer = props.isForetold ? undefined : of instanceof Refused ? of.problem : of;
  // In a long form it would stand below what is in sight.
  useEffect(() => {
    if (answer) box.current?.scrollIntoView({ block: "nearest" });
  }, [answer]);
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
    <Alert
      ref={box}
      color="alarm"
      variant="light"
      title={problem.title}
      role="alert"
      data-code={problem.code}
    >
      <Text size="sm">{problem.detail}</Text>
      {problem.code === "proof.stale" && <FreshProof />}
      {problem.code === "sign-in.too-weak" && (
        <Anchor href="/account" size="sm">
          Open your account
        </Anchor>
      )}
      {children}
    </Alert>
  );
}
