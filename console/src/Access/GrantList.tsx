import { Button, Group } from "@mantine/core";
import { useState } from "react";
import { api, type Grant, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { StepDialog } from "../ui/StepDialog";
import { dayText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/grants/{id}";

/** What is given to somebody, a group or an organisation, each taken with what that changes in sight. */
export function GrantList({ grants, nothing }: { grants: Grant[]; nothing: string }) {
  const { workspace } = useWorkspace();
  const [asked, setAsked] = useState<Grant>();
  if (grants.length === 0) return <p className="soft">{nothing}</p>;
  return (
    <>
      <ul className="paths">
        {grants.map((grant) => (
          <li key={grant.id}>
            <Group justify="space-between">
              <span>
                <strong>{grant.role}</strong>{" "}
                {grant.resource ? `at ${grant.resource}` : "in the whole workspace"}
                {grant.from && `, from ${dayText(grant.from)}`}
                {grant.until && `, until ${dayText(grant.until)}`}
                <span className="soft"> given by {grant.givenBy}</span>
              </span>
              <Allowed duty="access">
                <Button size="compact-sm" variant="default" onClick={() => setAsked(grant)}>
                  Take …
                </Button>
              </Allowed>
            </Group>
          </li>
        ))}
      </ul>
      {asked && (
        <StepDialog
          title={`Take the role ${asked.role} from ${asked.holder}`}
          word={`Take ${asked.role}`}
          isAlarming
          call={(dryRun) =>
            take(api.DELETE(path, { params: { path: { workspace, id: asked.id }, query: { dryRun } } }))
          }
          onClose={() => setAsked(undefined)}
        />
      )}
    </>
  );
}

/** What is given, one a line, as a list of such things says it. */
export function GrantWords({ of }: { of: Grant[] }) {
  if (of.length === 0) return <span className="soft">nothing yet</span>;
  return of.map((grant) => (
    <div key={grant.id}>
      {grant.role}
      {grant.resource && ` at ${grant.resource}`}
    </div>
  ));
}
