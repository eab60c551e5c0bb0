import { Button } from "@mantine/core";

/** Saves a list as CSV, just as it is filtered. */
export function CsvLink({ workspace, list }: { workspace: string; list: string }) {
  return (
    <Button component="a" variant="default" href={`/api/v1/workspaces/${workspace}/${list}`} download>
      Save as CSV
    </Button>
  );
}
