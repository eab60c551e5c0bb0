import { Button, Stack, Table, Text, Title } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { StayBar } from "../ui/StayBar";
import { StepDialog } from "../ui/StepDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { CodeMark } from "./CodeMark";
import { GiveDialog } from "./GiveDialog";
import { GrantList } from "./GrantList";
import { OrganisationDialog } from "./OrganisationDialog";
import { SwitchedOff } from "./SwitchedOff";
import { SwitchOffDialog } from "./SwitchOffDialog";

const path = "/api/v1/workspaces/{workspace}/organisations/{name}";

/** One organisation: what it is, what its people get, and who they are. */
export function OrganisationPage() {
  const { workspace, today } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/access/organisations/$id" });
  const navigate = useNavigate();
  const [asked, setAsked] = useState<"give" | "change" | "remove" | "off">();
  const found = useQuery({
    queryKey: [workspace, "organisation", id],
    queryFn: () => take(api.GET(path, { params: { path: { workspace, name: id } } })),
  });
  const people = useQuery({
    queryKey: [workspace, "people", { organisation: id }],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/people", {
          params: { path: { workspace }, query: { organisation: id, limit: 200 } },
        }),
      ),
  });
  const one = found.data;
  return (
    <Page
      title={one?.name ?? "Organisation"}
      actions={
        <Allowed duty="access">
          <Button variant="default" onClick={() => setAsked("remove")}>
            Remove it …
          </Button>
          <Button variant="default" onClick={() => setAsked("off")}>
            Switch off for …
          </Button>
          <Button variant="default" onClick={() => setAsked("change")}>
            Change …
          </Button>
          <Button onClick={() => setAsked("give")}>Give a role</Button>
        </Allowed>
      }
    >
      <AccessNav />
      <Refusal of={found.error} />
      {one && (
        <div className="two-columns">
          <section className="sheet" aria-label="What it is">
            <dl className="facts">
              <dt>Code</dt>
              <dd>{one.code ? <CodeMark organisation={one} /> : "–"}</dd>
              <dt>Its people come as</dt>
              <dd>
                <Pennant kind={one.kind} />
              </dd>
              <dt>Agreement</dt>
              <dd>
                <StayBar stay={{ until: one.agreementEnds }} today={today} />
                {one.isOver && <strong>It is over: none of its people get in.</strong>}
              </dd>
              <dt>People</dt>
              <dd>
                {one.people} here, {one.invited} invited
                {one.cap !== null && `, at most ${one.cap}`}
              </dd>
              <dt>Reference</dt>
              <dd>{one.reference || "–"}</dd>
              <dt>Mail domains</dt>
              <dd>{one.domains.join(", ") || "–"}</dd>
              <dt>Leads</dt>
              <dd>{one.leads.join(", ") || "nobody: make somebody a lead on their page"}</dd>
              <dt>Contacts</dt>
              <dd>
                {one.contacts.map((contact) => (
                  <div key={contact.address}>
                    {[contact.name, contact.title, contact.address].filter(Boolean).join(", ")}
                  </div>
                ))}
              </dd>
              {one.offAt.length > 0 && (
                <>
                  <dt>Switched off for</dt>
                  <dd>
                    <SwitchedOff
                      off={one.offAt.map((resource) => ({ resource, holder: one.id, name: resource }))}
                    />
                  </dd>
                </>
              )}
            </dl>
          </section>
          <section className="sheet" aria-labelledby="gives">
            <Stack>
              <Title order={2} size="h4" id="gives">
                What everybody of it gets
              </Title>
              <GrantList grants={one.grants} nothing="Nothing is given to it yet." />
            </Stack>
          </section>
        </div>
      )}
      <section className="sheet table-holder" aria-labelledby="people">
        <Title order={2} size="h4" id="people">
          Its people
        </Title>
        {people.data?.items.length === 0 && (
          <p className="soft">Nobody of it is here. Invite somebody and name it as their organisation.</p>
        )}
        <Table verticalSpacing={8}>
          <Table.Tbody>
            {people.data?.items.map((person) => (
              <Table.Tr key={person.id}>
                <Table.Td>
                  <Link to="/w/$workspace/people/$id" params={{ workspace, id: person.id }}>
                    {person.name}
                  </Link>
                  <div className="soft">{person.address}</div>
                </Table.Td>
                <Table.Td>{person.leads && "lead"}</Table.Td>
                <Table.Td>
                  <StateWord state={person.state} />
                </Table.Td>
                <Table.Td>
                  <StayBar stay={person} today={today} />
                </Table.Td>
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </section>
      {one && asked === "give" && (
        <GiveDialog
          title={`Give everybody of ${one.name} a role`}
          holder={{ organisation: one.name }}
          onClose={() => setAsked(undefined)}
        />
      )}
      {one && asked === "change" && <OrganisationDialog of={one} onClose={() => setAsked(undefined)} />}
      {one && asked === "off" && (
        <SwitchOffDialog
          name={one.name}
          holder={{ person: null, organisation: one.name }}
          offAt={one.offAt}
          onClose={() => setAsked(undefined)}
        />
      )}
      {one && asked === "remove" && (
        <StepDialog
          title={`Remove the organisation ${one.name}`}
          word={`Remove ${one.name}`}
          isAlarming
          call={(dryRun) =>
            take(api.DELETE(path, { params: { path: { workspace, name: id }, query: { dryRun } } }))
          }
          onClose={() => setAsked(undefined)}
          onDone={() => navigate({ to: "/w/$workspace/access/organisations", params: { workspace } })}
        >
          <Text>It goes with what is given to it; the record keeps what was.</Text>
        </StepDialog>
      )}
    </Page>
  );
}
