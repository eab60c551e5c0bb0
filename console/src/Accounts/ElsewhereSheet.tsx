import { Button, Group, Text } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { api, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { heldText } from "./connectionWords";

/** What somebody has in every connected system, asked there when the button is pressed. */
export function ElsewhereSheet({ person }: { person: string }) {
  const { workspace } = useWorkspace();
  const ask = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/people/{person}/sweep", {
          params: { path: { workspace, person } },
        }),
      ),
  });
  return (
    <section className="sheet" aria-labelledby="elsewhere">
      <Group justify="space-between">
        <h2 className="section-title" id="elsewhere">
          In connected systems
        </h2>
        <Button size="xs" variant="default" loading={ask.isPending} onClick={() => ask.mutate()}>
          {ask.data ? "Ask again" : "Ask them now"}
        </Button>
      </Group>
      <Refusal of={ask.error} />
      {!ask.data && !ask.error && (
        <Text size="sm" className="soft">
          Every connected system is asked, at this moment, what they have there.
        </Text>
      )}
      {ask.data && (
        <SimpleTable
          isBare
          rows={ask.data.items}
          keyOf={(one) => one.connection}
          nothing="Nothing is carried out to any system."
          columns={[
            { head: "In", cell: (one) => one.connection },
            { head: "Is to be", cell: (one) => heldText(one.wanted, one.groups) },
            {
              head: "Is",
              cell: (one) => (
                <>
                  {one.held ? heldText(one.held, one.heldGroups) : "–"}
                  <div>
                    <StateWord state={one.state} />
                  </div>
                  {one.answer && <div className="soft">{one.answer}</div>}
                </>
              ),
            },
          ]}
        />
      )}
    </section>
  );
}
