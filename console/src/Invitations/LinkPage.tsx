import { Button, Skeleton, Table, Text, Title } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type NewJoinLink, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Pennant } from "../ui/Pennant";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";
import { HandOut } from "./LinksPage";

const path = "/api/v1/workspaces/{workspace}/links/{id}";

/** One join link: who came in by it, closing it, and ending everybody who did. */
export function LinkPage() {
  const { workspace } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/invite/links/$id" });
  const queries = useQueryClient();
  const [made, setMade] = useState<NewJoinLink>();
  const [isEnding, ending] = useDisclosure();
  const place = { params: { path: { workspace, id } } };
  const refresh = () => queries.invalidateQueries({ queryKey: [workspace] });
  const found = useQuery({ queryKey: [workspace, "link", id], queryFn: () => take(api.GET(path, place)) });
  const people = useQuery({
    queryKey: [workspace, "link", id, "people"],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/invitations", {
          params: { path: { workspace }, query: { link: id, limit: 200 } },
        }),
      ),
    refetchInterval: 5_000,
  });
  const close = useMutation({
    mutationFn: () => take(api.POST(`${path}/close`, place)),
    onSuccess: refresh,
  });
  const renew = useMutation({
    mutationFn: () => take(api.POST(`${path}/renew`, place)),
    onSuccess: (fresh) => {
      setMade(fresh);
      return refresh();
    },
  });
  const end = (dryRun: boolean) =>
    take(api.POST(`${path}/end`, { params: { path: { workspace, id }, query: { dryRun } } }));
  const link = found.data;
  const isOpen = link?.state === "open";
  return (
    <Page
      title={link?.label ?? "Join link"}
      actions={
        link && (
          <>
            {isOpen && (
              <Allowed duty="invite">
                <Button variant="default" loading={renew.isPending} onClick={() => renew.mutate()}>
                  Renew its address
                </Button>
              </Allowed>
            )}
            {link.state !== "closed" && (
              <Allowed duty="invite">
                <Button variant="default" loading={close.isPending} onClick={() => close.mutate()}>
                  Close the link
                </Button>
              </Allowed>
            )}
            {link.uses > 0 && (
              <Allowed duty="people">
                <Button color="alarm" variant="outline" onClick={ending.open}>
                  End everybody who came in by it …
                </Button>
              </Allowed>
            )}
          </>
        )
      }
    >
      <InviteNav />
      <Refusal of={found.error ?? close.error ?? renew.error} />
      {made && <HandOut made={made} />}
      {!link && !found.error && <Skeleton height={160} />}
      {link && (
        <div className="two-columns">
          <section className="sheet" aria-label="What it gives">
            <dl className="facts">
              <dt>State</dt>
              <dd>
                <StateWord state={link.state} />
              </dd>
              <dt>As</dt>
              <dd>
                <Pennant kind={link.kind} />
              </dd>
              <dt>Role</dt>
              <dd>{link.role}</dd>
              <dt>Came in</dt>
              <dd>
                {link.uses} of {link.cap}
              </dd>
              <dt>Stay</dt>
              <dd>{link.stayDays ? `${link.stayDays} days from joining` : (link.until ?? "no end")}</dd>
              <dt>Mail domains</dt>
              <dd>{link.domains.join(", ") || "any"}</dd>
              <dt>Approval</dt>
              <dd>{link.needsApproval ? "each waits for it" : "not needed"}</dd>
              <dt>Open until</dt>
              <dd>{instantText(link.expiresAt)}</dd>
              <dt>Made by</dt>
              <dd>
                {link.createdBy}, {instantText(link.createdAt)}
              </dd>
            </dl>
          </section>
          <section className="sheet" aria-labelledby="came">
            <Title order={2} size="h4" id="came" mb="sm">
              Who asked to come in
            </Title>
            {people.data?.items.length === 0 && <span className="soft">Nobody yet.</span>}
            <Table>
              <Table.Tbody>
                {people.data?.items.map((invitation) => (
                  <Table.Tr key={invitation.id}>
                    <Table.Td>
                      <Link to="/w/$workspace/invite/$id" params={{ workspace, id: invitation.id }}>
                        {invitation.name || invitation.address}
                      </Link>
                      <div className="soft">{invitation.address}</div>
                    </Table.Td>
                    <Table.Td>
                      <StateWord state={invitation.state} />
                    </Table.Td>
                  </Table.Tr>
                ))}
              </Table.Tbody>
            </Table>
          </section>
        </div>
      )}
      {isEnding && (
        <FormDialog
          isStep
          isAlarming
          title="End everybody who came in by this link"
          word={(_, plan) => `End the access of ${plan.data?.ended.length ?? 0} now`}
          initial={{}}
          plan={() => () => end(true)}
          isReady={(_, plan) => !!plan.data?.ended.length}
          save={() => end(false)}
          onClose={ending.close}
        >
          {(_, plan) =>
            plan.data && (
              <>
                <Text>
                  {plan.data.ended.length === 0
                    ? "Nobody who came in by it is still here."
                    : "These lose their access here at once; their accounts stay theirs:"}
                </Text>
                <ul>
                  {plan.data.ended.map((person) => (
                    <li key={person}>{person}</li>
                  ))}
                </ul>
              </>
            )
          }
        </FormDialog>
      )}
    </Page>
  );
}
