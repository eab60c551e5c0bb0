import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { type Problem, Refused } from "../api";
import { Refusal } from "../ui/Refusal";

/** What an address was probably meant to be. */
export function Suggestion({ address, onTake }: { address: string; onTake: (address: string) => void }) {
  return (
    <Button variant="subtle" size="compact-sm" onClick={() => onTake(address)}>
      Use {address}
    </Button>
  );
}

/** The way on from what stands in the way. */
export function NextStep(props: { problem: Problem; workspace: string; isForetold: boolean }) {
  const { problem, workspace } = props;
  const id = problem.related;
  return (
    <Refusal of={new Refused(problem)} isForetold={props.isForetold}>
      {id && problem.code === "address.member" && (
        <Link to="/w/$workspace/people/$id" params={{ workspace, id }}>
          Open their page
        </Link>
      )}
      {id && problem.code === "address.invited" && (
        <Link to="/w/$workspace/invite/$id" params={{ workspace, id }}>
          Open that invitation to resend or revoke it
        </Link>
      )}
    </Refusal>
  );
}
