import { Autocomplete, Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, take } from "../api";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { besides } from "./suggestions";

/** An organisation, chosen among those known here; another name is kept as it is written only when that is meant. */
export function OrganisationField(props: {
  value: string;
  onChange: (organisation: string) => void;
  asWritten: boolean;
  onAsWritten: (asWritten: boolean) => void;
  error?: React.ReactNode;
}) {
  const { workspace } = useWorkspace();
  const known = useQuery({
    queryKey: [workspace, "organisations", "names"],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/organisations", {
          params: { path: { workspace } },
        }),
      ),
    staleTime: 60_000,
  });
  const names = (known.data?.items ?? []).flatMap((one) => [one.name, ...(one.code ? [one.code] : [])]);
  const isKnown = names.some((name) => name.toLowerCase() === props.value.trim().toLowerCase());
  return (
    <div>
      <Autocomplete
        label="Organisation"
        data={besides(
          props.value,
          (known.data?.items ?? []).map((one) => one.name),
        )}
        limit={8}
        value={props.value}
        onChange={props.onChange}
        error={props.error}
      />
      {props.value.trim() && known.data && names.length > 0 && !isKnown && (
        <Checkbox
          mt={6}
          label={`None of the organisations here: keep “${props.value.trim()}” as it is written`}
          checked={props.asWritten}
          onChange={(event) => props.onAsWritten(event.currentTarget.checked)}
        />
      )}
    </div>
  );
}
