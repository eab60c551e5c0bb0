import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { ShowMore } from "../ui/ShowMore";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { usePages } from "../ui/usePages";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

const path = "/api/v1/workspaces/{workspace}/connections/{connection}/deliveries";

/** What a system that is only told was told, and sending something again. */
export function DeliverySheet({ connection }: { connection: string }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const params = { path: { workspace, connection } };
  const sent = usePages([workspace, "carried", connection, "deliveries"], (cursor) =>
    take(api.GET(path, { params: { ...params, query: { cursor } } })),
  );
  const again = useMutation({
    mutationFn: (delivery: string) =>
      take(
        api.POST(`${path}/{delivery}/send-again`, { params: { path: { workspace, connection, delivery } } }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: [workspace, "carried", connection] }),
  });
  return (
    <section className="sheet" aria-labelledby="deliveries">
      <h2 className="section-title" id="deliveries">
        What it was told
      </h2>
      <Refusal of={again.error ?? sent.error} />
      <SimpleTable
        isBare
        rows={sent.items}
        keyOf={(one) => one.id}
        nothing="It was told nothing as yet."
        columns={[
          {
            head: "Event",
            cell: (one) => (
              <>
                {one.sentence}
                <div className="soft">
                  {instantText(one.at)}, {one.id}
                </div>
              </>
            ),
          },
          {
            head: "State",
            cell: (one) => (
              <>
                <StateWord state={one.state} />
                <div className="soft">
                  {one.answer} {one.tries > 1 && `Sent ${one.tries} times.`}
                </div>
              </>
            ),
          },
          {
            head: "Send it again",
            isHeadHidden: true,
            cell: (one) => (
              <Button
                size="compact-sm"
                variant="default"
                loading={again.isPending && again.variables === one.id}
                onClick={() => again.mutate(one.id)}
              >
                Send again
              </Button>
            ),
          },
        ]}
      />
      <ShowMore of={sent} />
    </section>
  );
}
