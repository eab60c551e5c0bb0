import { Button, Title } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StepDialog } from "../ui/StepDialog";
import { usePages } from "../ui/usePages";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { GiveDialog } from "./GiveDialog";
import { GrantList } from "./GrantList";
import { GroupDialog } from "./GroupDialog";
import { MoveInDialog } from "./MoveInDialog";
import { PersonField } from "./PersonField";

const path = "/api/v1/workspaces/{workspace}/groups/{name}";

/** One group: what is given to it, and who is in it. */
export function GroupPage() {
  const { workspace } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/access/groups/$id" });
  const [asked, setAsked] = useState<"change" | "give" | "join" | "move" | "remove">();
  const place = { params: { path: { workspace, name: id } } };
  const found = useQuery({
    queryKey: [workspace, "group", id],
    queryFn: () => take(api.GET(path, place)),
  });
  const members = usePages([workspace, "group", id, "members"], (cursor) =>
    take(api.GET(`${path}/members`, { params: { path: { workspace, name: id }, query: { cursor } } })),
  );
  const queries = useQueryClient();
  const navigate = useNavigate();
  const leave = useMutation({
    mutationFn: (person: string) =>
      take(api.DELETE(`${path}/members/{person}`, { params: { path: { workspace, name: id, person } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace] }),
  });
  const group = found.data;
  return (
    <Page
      title={group?.name ?? "Group"}
      actions={
        <Allowed duty="access">
          <Button variant="default" onClick={() => setAsked("remove")}>
            Remove the group …
          </Button>
          <Button variant="default" onClick={() => setAsked("change")}>
            Change it …
          </Button>
          <Button variant="default" onClick={() => setAsked("give")}>
            Give a role
          </Button>
          <Button variant="default" onClick={() => setAsked("move")}>
            Move people in …
          </Button>
          <Button onClick={() => setAsked("join")}>Put somebody in</Button>
        </Allowed>
      }
    >
      <AccessNav />
      <Refusal of={found.error ?? leave.error} />
      {group && (
        <section className="sheet" aria-labelledby="gives">
          <Title order={2} size="h4" id="gives">
            What everybody in it gets
          </Title>
          {group.about && <p className="soft">{group.about}</p>}
          <GrantList grants={group.grants} nothing="Nothing is given to this group yet." />
        </section>
      )}
      <section className="sheet table-holder" aria-labelledby="members">
        <Title order={2} size="h4" id="members">
          {group ? `${group.members} members` : "Members"}
        </Title>
        <SimpleTable
          isBare
          isHeadless
          rows={members.items}
          keyOf={(person) => person.id}
          nothing="Nobody is in it yet."
          columns={[
            {
              head: "Who",
              cell: (person) => (
                <>
                  <Link to="/w/$workspace/people/$id" params={{ workspace, id: person.id }}>
                    {person.name}
                  </Link>
                  <div className="soft">{person.address}</div>
                </>
              ),
            },
            { head: "Kind", cell: (person) => <Pennant kind={person.kind} /> },
            {
              head: "Take out",
              isNumber: true,
              cell: (person) => (
                <Allowed duty="access">
                  <Button
                    size="xs"
                    variant="default"
                    aria-label={`Take ${person.name} out`}
                    loading={leave.isPending && leave.variables === person.id}
                    onClick={() => leave.mutate(person.id)}
                  >
                    Take out
                  </Button>
                </Allowed>
              ),
            },
          ]}
        />
        <ShowMore of={members} />
      </section>
      {group && asked === "change" && <GroupDialog of={group} onClose={() => setAsked(undefined)} />}
      {group && asked === "give" && (
        <GiveDialog
          title={`Give everybody in ${group.name} a role`}
          holder={{ group: group.name }}
          onClose={() => setAsked(undefined)}
        />
      )}
      {group && asked === "join" && (
        <JoinDialog id={id} name={group.name} onClose={() => setAsked(undefined)} />
      )}
      {group && asked === "move" && (
        <MoveInDialog id={id} name={group.name} onClose={() => setAsked(undefined)} />
      )}
      {group && asked === "remove" && (
        <StepDialog
          title={`Remove the group ${group.name}`}
          word={`Remove ${group.name}`}
          isAlarming
          call={(dryRun) =>
            take(api.DELETE(path, { params: { path: { workspace, name: id }, query: { dryRun } } }))
          }
          onClose={() => setAsked(undefined)}
          onDone={() => navigate({ to: "/w/$workspace/access/groups", params: { workspace } })}
        />
      )}
    </Page>
  );
}

function JoinDialog({ id, name, onClose }: { id: string; name: string; onClose: () => void }) {
  const { workspace } = useWorkspace();
  return (
    <StepDialog
      title={`Put somebody into ${name}`}
      word="Put them in"
      initial={{ person: "" }}
      isChosen={({ person }) => person.includes("@")}
      call={(dryRun, { person }) =>
        take(
          api.POST(`${path}/members`, {
            params: { path: { workspace, name: id }, query: { dryRun } },
            body: { people: [person] },
          }),
        )
      }
      onClose={onClose}
    >
      {(form) => <PersonField label="Name or address" {...form.getInputProps("person")} />}
    </StepDialog>
  );
}
