import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, inWorkspace, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";

const path = "/api/v1/workspaces/{workspace}/bounced-addresses";

/** Addresses at which mail came back for good, why, and taking one off the list. */
export function BouncedPage() {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const bounced = useQuery({
    queryKey: [workspace, "bounced"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  const forget = useMutation({
    mutationFn: (address: string) =>
      take(api.DELETE(`${path}/{address}`, { params: { path: { workspace, address } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: [workspace, "bounced"] }),
  });
  return (
    <Page title="Bounced addresses">
      <InviteNav />
      <Refusal of={bounced.error ?? forget.error} />
      <SimpleTable
        rows={bounced.data?.items}
        keyOf={(one) => one.address}
        nothing="No mail came back for good."
        columns={[
          {
            head: "Address",
            cell: (one) => (
              <>
                <Link to="/w/$workspace/invite" params={{ workspace }} search={{ search: one.address }}>
                  {one.address}
                </Link>
              </>
            ),
          },
          {
            head: "Why",
            cell: (one) => (
              <>
                {one.sentence}
                <div className="soft">{one.answer}</div>
              </>
            ),
          },
          { head: "When", isOneLine: true, cell: (one) => instantText(one.at) },
          {
            head: "Take off the list",
            isHeadHidden: true,
            cell: (one) => (
              <>
                <Allowed duty="invite">
                  <Button
                    size="xs"
                    variant="default"
                    aria-label={`Take ${one.address} off the list`}
                    onClick={() => forget.mutate(one.address)}
                  >
                    It works again
                  </Button>
                </Allowed>
              </>
            ),
          },
        ]}
      />
    </Page>
  );
}
