import { List, Text } from "@mantine/core";
import { api, type Erased, type Person, take } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** Takes the data of somebody away who has left, after saying what goes and what stays. */
export function EraseDialog({ person, onClose }: { person: Person; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const call = (dryRun: boolean) =>
    take(
      api.POST("/api/v1/workspaces/{workspace}/people/{person}/erase", {
        params: { path: { workspace, person: person.id }, query: { dryRun: String(dryRun) } },
      }),
    );
  return (
    <FormDialog<object, unknown, Erased>
      isStep
      isAlarming
      title={`Erase what tells who ${person.name} was`}
      word={`Erase ${person.name} for good`}
      initial={{}}
      plan={() => () => call(true)}
      isReady={(_, plan) => plan.data !== undefined}
      save={() => call(false)}
      said="Their data is erased; the record is whole all the same."
      onClose={onClose}
    >
      {(_, plan) => (
        <>
          {plan.data && (
            <>
              <Text>
                Nobody can take this back. That somebody was here, what was done and when stays in the record.
              </Text>
              <div>
                <Text fw={650}>Goes</Text>
                <List>
                  {plan.data.goes
                    .filter((line) => line.count > 0)
                    .map((line) => (
                      <List.Item key={line.what}>
                        {line.count} {line.what}
                      </List.Item>
                    ))}
                </List>
              </div>
              <div>
                <Text fw={650}>Stays</Text>
                <List>
                  {plan.data.stays.map((sentence) => (
                    <List.Item key={sentence}>{sentence}</List.Item>
                  ))}
                </List>
              </div>
            </>
          )}
        </>
      )}
    </FormDialog>
  );
}
