import { Autocomplete } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { api, type Suggestion, take } from "../api";
import { besides } from "../ui/suggestions";
import { useWorkspace } from "../Workspaces/useWorkspace";

/**
 * A field for an address that suggests people known here, invited, in an organisation's contacts or in a directory that is read, and
 * says who it is once the address is there.
 */
export function PersonField(props: {
  label: string;
  value?: string;
  onChange: (address: string) => void;
  onPick?: (suggestion: Suggestion) => void;
  error?: string;
  required?: boolean;
}) {
  const { workspace } = useWorkspace();
  const { value = "" } = props;
  const [settled] = useDebouncedValue(value, 200);
  const found = useQuery({
    queryKey: [workspace, "suggestions", settled],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/suggestions", {
          params: { path: { workspace }, query: { text: settled } },
        }),
      ),
    enabled: settled.trim().length >= 2,
    placeholderData: (before) => before,
  });
  const people = (found.data?.items ?? []).filter((one) => one.address);
  const byAddress = new Map(people.map((one) => [one.address, one]));
  const written = value.trim().toLowerCase();
  const whole = people.find((one) => one.address.toLowerCase() === written);
  return (
    <Autocomplete
      label={props.label}
      required={props.required}
      autoComplete="off"
      data-autofocus
      value={value}
      onChange={props.onChange}
      onOptionSubmit={(address) => {
        const picked = byAddress.get(address);
        if (picked) props.onPick?.(picked);
      }}
      data={besides(value, [...byAddress.keys()])}
      description={whole && lineOf(whole)}
      inputWrapperOrder={["label", "input", "description", "error"]}
      // The service has matched names and organisations too, not only what is shown.
      filter={({ options }) => options}
      renderOption={({ option }) => {
        const one = byAddress.get(option.value);
        return (
          <div>
            {one?.name || option.value}
            <div className="soft">
              {option.value}
              {one && ` · ${standing(one)}`}
            </div>
          </div>
        );
      }}
      error={props.error}
    />
  );
}

const lineOf = (one: Suggestion) => [one.name, standing(one)].filter(Boolean).join(" · ");

const standing = (one: Suggestion) => [one.source, one.organisation].filter(Boolean).join(", ");
